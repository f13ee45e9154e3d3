/** What can be said of a line of a layer beside the lead: late, out of tune, the lead's own sound once more, used twice. */
import { findCopy, phasesOf } from '../align/copies'
import { soundOfLayer } from '../align/layer-sound'
import { leadOf } from '../align/led-paths'
import { usesElsewhere } from '../comp/picks'
import type { Layer, LayerId, LineId, Song } from '../song/schema'
import { currentComp, lengthOf, overlapFrames, requireLayer, requirePlacedLine, requireTake, type FrameRange, type PlacedLine } from '../song/select'
import { factsOfLine } from '../voice/line-facts'
import { likeTheLead, lookAt } from './like-the-lead'
import type { HeardSounds } from './line-offers'

/** As it was sung; null where it cannot be told. */
export interface BesideTheLead {
  lineId: LineId
  /** After the lead positive. */
  lateMilliseconds: number | null
  offMilliseconds: number | null
  /** How much sharper than the lead its held notes lie from the key, or than the key where the lead's say nothing. */
  centsOff: number | null
  isCopy: boolean
}

/** Less of a line than this is not compared. */
const LEAST_SHARE = 0.5
/** Of the two voices' syllables so much must be alike for timing to mean anything: an ad-lib sings other words. */
const LEAST_LIKENESS = 0.2

/** Lines of a layer in which it and the lead play enough to be compared. */
export function comparableLines(song: Song, layer: Layer, lines: readonly PlacedLine[]): PlacedLine[] {
  const lead = leadOf(song, layer)
  if (!lead) return []
  return lines.filter(line => [layer, lead].every(of => playedShare(of, line) >= LEAST_SHARE))
}

function playedShare(layer: Layer, line: FrameRange): number {
  return currentComp(layer).picks.reduce((sum, pick) => sum + overlapFrames(pick, line), 0) / lengthOf(line)
}

/** What the comparison of a line rests on: while it stays, so does what was found. */
export function basisOfLine(song: Song, layer: Layer, line: PlacedLine): string {
  const lead = leadOf(song, layer)
  const lies = (of: Layer | null) =>
    of === null
      ? []
      : currentComp(of)
          .picks.filter(pick => overlapFrames(pick, line) > 0)
          .map(pick => {
            const { assetId, originFrame } = requireTake(song, pick.takeId)
            return [assetId, originFrame + pick.nudgeFrames, Math.max(pick.startFrame, line.startFrame), Math.min(pick.endFrame, line.endFrame)]
          })
  const { key, tuningCents } = song.beat
  return JSON.stringify([line.startFrame, line.endFrame, key, tuningCents, lies(layer), lies(lead)])
}

/** @throws RangeError for a layer or line that is not in the song. */
export async function besideTheLead(song: Song, layerId: LayerId, lineIds: readonly LineId[], sounds: HeardSounds): Promise<BesideTheLead[]> {
  const layer = requireLayer(song, layerId)
  const lead = leadOf(song, layer)
  const found: BesideTheLead[] = []
  for (const lineId of lineIds) {
    const line = requirePlacedLine(song, lineId)
    const range = { startFrame: Math.max(0, line.startFrame), endFrame: line.endFrame }
    const nothing: BesideTheLead = { lineId, lateMilliseconds: null, offMilliseconds: null, centsOff: null, isCopy: false }
    if (!lead) {
      found.push(nothing)
      continue
    }
    const [theirs, own] = [await soundOfLayer(song, lead.id, range, sounds.read), await soundOfLayer(song, layerId, range, sounds.read)]
    const like = likeTheLead(lookAt(theirs), lookAt(own))
    const inTime = like && like.likeness >= LEAST_LIKENESS ? like : null
    const [ownCents, leadCents] = [await centsOf(song, layer, line, sounds), await centsOf(song, lead, line, sounds)]
    found.push({
      lineId,
      lateMilliseconds: inTime?.lateMilliseconds ?? null,
      offMilliseconds: inTime?.offMilliseconds ?? null,
      centsOff: ownCents === null ? null : ownCents - (leadCents ?? 0),
      isCopy: findCopy(phasesOf(theirs), phasesOf(own)) !== null,
    })
  }
  return found
}

async function centsOf(song: Song, layer: Layer, line: PlacedLine, { analysisOf }: HeardSounds): Promise<number | null> {
  const picks = currentComp(layer).picks.filter(pick => overlapFrames(pick, line) > 0)
  const most = picks.toSorted((a, b) => overlapFrames(b, line) - overlapFrames(a, line))[0]
  if (!most) return null
  const take = requireTake(song, most.takeId)
  const { key, grid, tuningCents } = song.beat
  const analysis = await analysisOf(take)
  return analysis && factsOfLine(analysis, take.originFrame + most.nudgeFrames, line, { grid, key, tuningCents }).centsOff
}

export type Mark =
  { kind: 'late' | 'early'; milliseconds: number } | { kind: 'flat' | 'sharp'; cents: number } | { kind: 'copy' } | { kind: 'twice'; layerId: LayerId }

/** From so much on a second voice is heard beside the lead, and no longer with it. */
const LATE_MILLISECONDS = 45
const OFF_CENTS = 30

/** What is worth a mark, as the layer sounds now: what follows the lead is no longer late, what is tuned is in tune. */
export function marksOf(song: Song, layer: Layer, line: PlacedLine, beside: BesideTheLead | null): Mark[] {
  const { together, tune } = layer
  const left = together && !together.apart.includes(line.line.id) ? 1 - together.tightness : 1
  const late = left * (beside?.lateMilliseconds ?? 0)
  const cents = (1 - (tune?.amount ?? 0)) * (beside?.centsOff ?? 0)
  const marks: Mark[] = []
  if (beside?.isCopy) marks.push({ kind: 'copy' })
  else {
    const other = twiceIn(song, layer, line)
    if (other) marks.push({ kind: 'twice', layerId: other })
  }
  if (Math.abs(late) >= LATE_MILLISECONDS) marks.push({ kind: late > 0 ? 'late' : 'early', milliseconds: Math.abs(late) })
  if (Math.abs(cents) >= OFF_CENTS) marks.push({ kind: cents > 0 ? 'sharp' : 'flat', cents: Math.abs(cents) })
  return marks
}

/** Another layer that plays the same stretch of the same recording. */
function twiceIn(song: Song, layer: Layer, line: PlacedLine): LayerId | null {
  for (const pick of currentComp(layer).picks) {
    const range = { startFrame: Math.max(pick.startFrame, line.startFrame), endFrame: Math.min(pick.endFrame, line.endFrame) }
    if (range.endFrame <= range.startFrame) continue
    const [use] = usesElsewhere(song, { layerId: layer.id, takeId: pick.takeId, ...range })
    if (use) return use.layerId
  }
  return null
}
