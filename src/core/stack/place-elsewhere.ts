/** A stretch of a take put to another place of the song, as a take of its own: the same sound, sung to the same words. */
import { produce } from 'immer'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { clearPicks } from '../comp/picks'
import type { LayerId, LineId, Song, Take, TakeId } from '../song/schema'
import { requirePlacedLine, requireTake, type FrameRange } from '../song/select'
import { makeTake, nextPass } from '../song/takes'
import type { DoubleChoice } from './propose-doubles'

/** So much of the take on both sides goes along: seams need room. */
const BESIDE_FRAMES = SAMPLE_RATE_HZ

/** Command: the take, as it sounds `byFrames` later, in a layer. What is laid over it and what was found in it go along. The bin takes it away again. */
export function placeElsewhere(
  song: Song,
  { takeId, layerId, byFrames, range, name, id }: { takeId: TakeId; layerId: LayerId; byFrames: number; range: FrameRange; name: string; id: TakeId },
): Song {
  const take = requireTake(song, takeId)
  const later = (frame: number) => frame + byFrames
  const placed: Take = makeTake({
    ...take,
    id,
    layerId,
    name,
    pass: nextPass(song, layerId),
    originFrame: later(take.originFrame),
    startFrame: Math.max(later(take.startFrame), range.startFrame - BESIDE_FRAMES),
    endFrame: Math.min(later(take.endFrame), range.endFrame + BESIDE_FRAMES),
    roundTripSource: 'matched',
    flaws: take.flaws.map(flaw => ({ ...flaw, startFrame: later(flaw.startFrame), endFrame: later(flaw.endFrame) })),
    starred: false,
    spare: false,
  })
  if (placed.endFrame <= placed.startFrame) return song
  return produce(song, draft => {
    draft.takes.push(placed)
  })
}

/** What is to be picked where, once the takes are in place. */
export interface DoublePick {
  layerId: LayerId
  takeId: TakeId
  asked: FrameRange
}

/** The song made ready for the choices of a proposal: their lines emptied, what was sung elsewhere put in place; and the picks to be made. */
export function readyForDoubles(song: Song, choices: readonly DoubleChoice[], makeId: () => string): { song: Song; picks: DoublePick[] } {
  let ready = song
  for (const { layerId, lineId } of choices) {
    const { startFrame, endFrame } = requirePlacedLine(ready, lineId)
    ready = clearPicks(ready, { layerId, startFrame, endFrame, makeId })
  }
  const picks = choices.map(({ layerId, lineId, takeId, elsewhere }): DoublePick => {
    const { startFrame, endFrame } = requirePlacedLine(ready, lineId)
    const asked = { startFrame, endFrame }
    if (!elsewhere) return { layerId, takeId, asked }
    const id = makeId() as TakeId
    ready = placeElsewhere(ready, { takeId, layerId, byFrames: elsewhere.byFrames, range: asked, name: nameFrom(song, takeId, elsewhere.lineId), id })
    return { layerId, takeId: id, asked }
  })
  return { song: ready, picks }
}

/** "Pass 2 of Hook 1" */
export function nameFrom(song: Song, takeId: TakeId, lineId: LineId): string {
  return `${requireTake(song, takeId).name} of ${requirePlacedLine(song, lineId).section.name}`
}
