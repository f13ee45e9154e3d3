/** Which lines of which layers follow the lead, and by how much each is led. */
import { produce } from 'immer'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { median } from '../audio/statistics'
import { checkPolicy } from '../edits/policies'
import type { TimeEdit } from '../song/edit-schema'
import type { Layer, LayerId, LineId, Pick, Song, Take, TakeId } from '../song/schema'
import { currentComp, overlapFrames, placedLines, requireLayer, requireTake, type FrameRange } from '../song/select'
import { MOST_BASIS_LETTERS, MOST_LED_FRAMES, MOST_PATHS, MOST_PLACES, TIGHTNESS_RANGE, type LedPath, type Together } from '../song/together-schema'
import { placeOf, type Anchor } from './follow'
import { timesOf } from './times'

/** The layer that others follow: the first lead that plays something; none for a lead. */
export function leadOf({ layers }: { layers: readonly Layer[] }, layer: Layer): Layer | null {
  if (layer.role === 'lead') return null
  return layers.find(other => other.role === 'lead' && currentComp(other).picks.length > 0) ?? null
}

/** By what a path is known. */
type Named = { takeId: TakeId; lineId: LineId; basis: string }

/** A line of a take that is to follow the lead; `range` in frames of the song, with what is beside the line. */
export interface LedLine {
  layerId: LayerId
  leadId: LayerId
  lineId: LineId
  takeId: TakeId
  /** Of the take's frame 0, in the song. */
  originFrame: number
  range: FrameRange
  /** What of it is led: no further into the lines beside it than their first and last consonants reach. */
  led: FrameRange
  basis: string
}

/** A line is compared with so much beside it: what is early or late lies there. */
const BESIDE_FRAMES = 0.35 * SAMPLE_RATE_HZ
/** A word begins so long before its line, and may end so long after it. */
const OVER_EDGE_FRAMES = 0.1 * SAMPLE_RATE_HZ
/** Less of a line is none. */
const LEAST_FRAMES = 0.3 * SAMPLE_RATE_HZ

/** Changes whenever the same two sounds would be found to lie otherwise: what was found before is then found anew. */
const PATHS_VERSION = 2

/** Asked for with every take of a plan. */
const known = new WeakMap<Song, LedLine[]>()

/** Every line that is to follow, whether it is known where it lies or not. */
export function ledLines(song: Song): LedLine[] {
  const lines = known.get(song) ?? findLedLines(song)
  known.set(song, lines)
  return lines
}

function findLedLines(song: Song): LedLine[] {
  const lines = placedLines(song)
  return song.layers.flatMap(layer => {
    const lead = layer.together && leadOf(song, layer)
    if (!lead) return []
    const leadPicks = currentComp(lead).picks
    return lines
      .filter(({ line }) => !layer.together!.apart.includes(line.id))
      .flatMap(placed => {
        const beside = { startFrame: Math.max(0, placed.startFrame - BESIDE_FRAMES), endFrame: placed.endFrame + BESIDE_FRAMES }
        const ends = lines.map(({ endFrame }) => endFrame).filter(frame => frame <= placed.startFrame)
        const starts = lines.map(({ startFrame }) => startFrame).filter(frame => frame >= placed.endFrame)
        const led = { startFrame: Math.max(0, ...ends) - OVER_EDGE_FRAMES, endFrame: Math.min(Infinity, ...starts) + OVER_EDGE_FRAMES }
        const leads = leadPicks.filter(pick => overlapFrames(pick, placed) > 0)
        if (leads.length === 0) return []
        return currentComp(layer)
          .picks.filter(pick => !pick.asSung && overlapFrames(pick, placed) >= LEAST_FRAMES)
          .flatMap(pick => {
            const take = requireTake(song, pick.takeId)
            // A bounce has its timing in it.
            if (take.bounceOf) return []
            const range = { startFrame: Math.max(beside.startFrame, pick.startFrame), endFrame: Math.min(beside.endFrame, pick.endFrame) }
            const ids = { layerId: layer.id, leadId: lead.id, lineId: placed.line.id, takeId: take.id }
            const lies = [PATHS_VERSION, lyingOf(pick, take), range.startFrame, range.endFrame, ...leads.map(entry => leadLying(song, entry, beside))]
            const basis = lies.join(';').slice(0, MOST_BASIS_LETTERS)
            return [{ ...ids, originFrame: take.originFrame + pick.nudgeFrames, range, led, basis: lockedBasis(layer, ids) ?? basis }]
          })
      })
  })
}

/** A locked comp sounds as it does, however the lead comes to lie. */
function lockedBasis(layer: Layer, { takeId, lineId }: Omit<Named, 'basis'>): string | null {
  if (!currentComp(layer).locked) return null
  return layer.paths.find(path => path.takeId === takeId && path.lineId === lineId)?.basis ?? null
}

function lyingOf(pick: Pick, take: Take): string {
  return `${take.assetId},${take.originFrame + pick.nudgeFrames}`
}

function leadLying(song: Song, pick: Pick, beside: FrameRange): string {
  return `${lyingOf(pick, requireTake(song, pick.takeId))},${Math.max(beside.startFrame, pick.startFrame)},${Math.min(beside.endFrame, pick.endFrame)}`
}

/** Those that are not known yet, or lie otherwise by now. */
export function unledLines(song: Song): LedLine[] {
  if (song.layers.every(layer => !layer.together)) return []
  return ledLines(song).filter(line => !pathOf(requireLayer(song, line.layerId), line))
}

/** Where a line lies; null where that is not known, or not any more. */
export function pathOf(layer: Layer, { takeId, lineId, basis }: Named): LedPath | null {
  return layer.paths.find(path => path.takeId === takeId && path.lineId === lineId && path.basis === basis) ?? null
}

/** The paths that move a take in a layer; the same objects while nothing of them changes. */
export function pathsOfTake(song: Song, layer: Layer, take: Take): LedPath[] {
  if (!layer.together || layer.paths.length === 0) return []
  const own = ledLines(song).filter(line => line.layerId === layer.id && line.takeId === take.id)
  return own.map(line => pathOf(layer, line)).filter(path => path !== null)
}

/** By how much a take is moved in a layer: as the lead has it, and by hand. */
export function timesOfTake(song: Song, layer: Layer, take: Take): readonly TimeEdit[] {
  const places = pathsOfTake(song, layer, take).flatMap(path => path.places)
  const still = places.length > 0 ? edgesAsSung(song, layer, take) : []
  return timesOf(places, layer.together?.tightness ?? 0, { own: take.edits.times, ends: endsOf(layer, take), still })
}

/** What moves a line ends at the edges of lines that stay as sung, within the reach of a consonant; frames of the take's asset. */
function edgesAsSung(song: Song, layer: Layer, take: Take): number[] {
  const led = ledLines(song).filter(line => line.layerId === layer.id && line.takeId === take.id)
  const picks = currentComp(layer).picks.filter(pick => pick.takeId === take.id)
  return placedLines(song)
    .filter(({ line }) => led.every(({ lineId }) => lineId !== line.id))
    .flatMap(placed => {
      const pick = picks.find(entry => overlapFrames(entry, placed) >= LEAST_FRAMES)
      if (!pick) return []
      const edges = [placed.startFrame + OVER_EDGE_FRAMES, placed.endFrame - OVER_EDGE_FRAMES]
      return edges.map(frame => frame - take.originFrame - pick.nudgeFrames).filter(frame => frame > 0)
    })
}

/** Where phrases of a take end that are to end with the lead's, in frames of the take's asset. */
export function endsOf({ together }: Layer, { heard }: Take): number[] {
  return together?.endsTogether ? (heard?.phrases ?? []).map(([, end]) => end) : []
}

/** Anchors, found from the range's start on, as places of the take; none outside what is led, and none further than is led. */
export function placesOf(anchors: readonly Anchor[], { originFrame, range, led }: LedLine): LedPath['places'] {
  const own = anchors.filter(({ leadSeconds }) => {
    const frame = range.startFrame + leadSeconds * SAMPLE_RATE_HZ
    return frame >= led.startFrame && frame <= led.endFrame
  })
  const places = own.map(placeOf).map(([frame, later]): LedPath['places'][number] => [frame + range.startFrame - originFrame, later])
  return places.filter(([frame, later]) => frame >= 0 && Math.abs(later) <= MOST_LED_FRAMES).slice(0, MOST_PLACES)
}

/** Command: how layers follow the lead; null: as sung. @throws RangeError if `checkPolicy` says no. */
export function setTogether(song: Song, { layerIds, together }: { layerIds: readonly LayerId[]; together: Together | null }): Song {
  const check = checkPolicy(song, layerIds)
  if (!check.ok) throw new RangeError(`locked: ${check.compNames.join(', ')}`)
  const laid = together && { ...together, tightness: within(together.tightness) }
  return produce(song, draft => {
    for (const id of layerIds) requireLayer(draft, id).together = laid
  })
}

function within(tightness: number): number {
  return Math.max(TIGHTNESS_RANGE.min, Math.min(TIGHTNESS_RANGE.max, Number.isFinite(tightness) ? tightness : 0))
}

/** Command: where lines lie, once they were compared. Paths that nothing asks for any more go. */
export function notePaths(song: Song, found: readonly { line: LedLine; places: LedPath['places'] }[]): Song {
  const wanted = ledLines(song)
  return produce(song, draft => {
    for (const layer of draft.layers) {
      const asked = wanted.filter(({ layerId }) => layerId === layer.id)
      const isAsked = (path: Named) => asked.some(line => line.takeId === path.takeId && line.lineId === path.lineId && line.basis === path.basis)
      const fresh = found
        .filter(({ line }) => line.layerId === layer.id && isAsked(line))
        .map(({ line: { takeId, lineId, basis }, places }) => ({ takeId, lineId, basis, places: [...places] }))
      if (fresh.length === 0 && layer.paths.every(isAsked)) continue
      const isFresh = (path: Named) => fresh.some(other => other.takeId === path.takeId && other.lineId === path.lineId)
      layer.paths = [...layer.paths.filter(path => isAsked(path) && !isFresh(path)), ...fresh].slice(-MOST_PATHS)
    }
  })
}

/** How far a line is off, in milliseconds; after the beat of the lead positive. */
export interface LedOffs {
  /** Of all places, as sung and as led. */
  medianMilliseconds: number
  ledMilliseconds: number
  /** The whole line is late (positive) or early together: a plain move does as well. */
  asAWhole: number | null
}

/** A line is late as a whole where its places are so far off together, and differ by so much less. */
const WHOLE_MILLISECONDS = 25
const WHOLE_SPREAD_SHARE = 0.5

export function offsOf({ places }: LedPath, tightness: number): LedOffs | null {
  if (places.length === 0) return null
  const late = places.map(([, later]) => (-1_000 * later) / SAMPLE_RATE_HZ)
  const off = median(late.map(Math.abs))
  const middle = median(late)
  const spread = median(late.map(value => Math.abs(value - middle)))
  const isWhole = Math.abs(middle) >= WHOLE_MILLISECONDS && spread < WHOLE_SPREAD_SHARE * Math.abs(middle)
  return { medianMilliseconds: off, ledMilliseconds: (1 - tightness) * off, asAWhole: isWhole ? middle : null }
}
