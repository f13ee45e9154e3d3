/** Doubles from what is left: for any number of layers at once, from takes that no layer plays, and from the same words sung elsewhere in the song. */
import { clearPicks } from '../comp/picks'
import type { LayerId, LineId, Song, TakeId } from '../song/schema'
import { lengthOf, requirePlacedLine, type FrameRange, type PlacedLine } from '../song/select'
import { assignTakes, OPEN, type LineToFill } from './assign'
import {
  alikeIn,
  isLocked,
  mostPlayed,
  nameOf,
  offersOf,
  playedFrames,
  type DoubleReasons,
  type DoublesWish,
  type Elsewhere,
  type HeardSounds,
  type Offered,
} from './line-offers'

/** What a seam may take of a neighbouring line is not yet playing in it. */
const PLAYED_SHARE = 0.25

export interface DoubleChoice {
  lineId: LineId
  layerId: LayerId
  takeId: TakeId
  /** Sung to another line with the same words, and by so much later now; null: to this one. */
  elsewhere: Elsewhere | null
  reasons: DoubleReasons
}

export interface DoublesProposal {
  choices: DoubleChoice[]
  /** Layers for which no take is left in a line. */
  missing: { lineId: LineId; layerIds: LayerId[] }[]
  /** Layers that play something in a line: left alone unless the singer says otherwise. */
  played: { lineId: LineId; layerId: LayerId }[]
  /** Takes that are the lead's own sound once more. */
  copies: { lineId: LineId; takeId: TakeId }[]
}

/** @throws RangeError for a layer or line that is not in the song. */
export async function proposeDoubles(
  song: Song,
  wish: DoublesWish,
  sounds: HeardSounds,
  onProgress: (fraction: number) => void = () => {},
): Promise<DoublesProposal> {
  const { layerIds, lineIds, replacing = false } = wish
  const lines = lineIds.map(id => requirePlacedLine(song, id))
  const played = lines.flatMap(line => layerIds.filter(id => playsIn(song, id, line)).map(layerId => ({ lineId: line.line.id, layerId })))
  const isPlayed = (line: PlacedLine, layerId: LayerId) => played.some(entry => entry.lineId === line.line.id && entry.layerId === layerId)
  // What gives way plays nothing while it is asked what is free.
  const emptied = replacing
    ? lines.reduce(
        (current, line) =>
          layerIds
            .filter(id => isPlayed(line, id) && !isLocked(current, id))
            .reduce((s, layerId) => clearPicks(s, { layerId, ...line, makeId: () => 'rest' }), current),
        song,
      )
    : song
  const copies: DoublesProposal['copies'] = []
  const offered: Offered[][] = []
  for (const [i, line] of lines.entries()) {
    const { offers, copied } = await offersOf(emptied, line, wish, sounds)
    offered.push(offers)
    copies.push(...copied.map(take => ({ lineId: line.line.id, takeId: take.id })))
    onProgress((i + 1) / lines.length)
  }
  const toFill = lines.map((line, i): LineToFill<string> => ({
    section: line.section.id,
    offers: offered[i].map(offer => ({ take: nameOf(offer), score: offer.score })),
    held: layerIds.map(id => ((isPlayed(line, id) && !replacing) || isLocked(song, id) ? heldBy(song, id, line) : OPEN)),
    alike: alikeIn(offered[i]),
  }))
  const assigned = assignTakes(toFill, (a, b) => takeIn(a) === takeIn(b))
  const choices = lines.flatMap((line, i) =>
    layerIds.flatMap((layerId, k): DoubleChoice[] => {
      const name = toFill[i].held[k] === OPEN ? assigned[i][k] : null
      const offer = offered[i].find(entry => nameOf(entry) === name)
      if (!offer) return []
      const goesOn = i > 0 && lines[i - 1].section === line.section && assigned[i - 1][k] !== null && takeIn(assigned[i - 1][k]!) === offer.take.id
      return [{ lineId: line.line.id, layerId, takeId: offer.take.id, elsewhere: offer.elsewhere, reasons: { ...offer.reasons, goesOn } }]
    }),
  )
  const missing = lines.flatMap((line, i) => {
    const bare = layerIds.filter((_, k) => toFill[i].held[k] === OPEN && assigned[i][k] === null)
    return bare.length > 0 ? [{ lineId: line.line.id, layerIds: bare }] : []
  })
  return { choices, missing, played, copies }
}

function takeIn(name: string): string {
  return name.split(' ')[0]
}

function playsIn(song: Song, layerId: LayerId, range: FrameRange): boolean {
  return playedFrames(song, layerId, range) > PLAYED_SHARE * lengthOf(range)
}

function heldBy(song: Song, layerId: LayerId, range: FrameRange): TakeId | null {
  return mostPlayed(song, layerId, range)?.takeId ?? null
}
