/** Equal loudness: for comparing takes, and across the seams of a comp. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { LayerId, Song, Take, TakeId } from '../song/schema'
import { currentComp, requireLayer, requireTake, type FrameRange } from '../song/select'
import type { PlacedPeaks } from './quiet-spot'

/** Softer than this a stretch holds the room and no voice: its level says nothing. */
const FLOOR_DECIBELS = -50
/** A take is turned by no more than this for listening: beyond it the room would be heard to change. */
const MAX_MATCH_DECIBELS = 12
/** A pick is turned by no more than this to fit what it meets. */
export const MAX_SEAM_MATCH_DECIBELS = 6
/** So much is heard on both sides of a seam: the window of short-term loudness (EBU Tech 3341). */
const SEAM_SIDE_FRAMES = 3 * SAMPLE_RATE_HZ
/** Picks further apart than this are not compared. */
const NEIGHBOUR_FRAMES = SAMPLE_RATE_HZ

/** Mean level in decibels of what is sung within a range; pauses do not count. -Infinity if nothing is sung. */
function sungLevelDecibels({ peaks, originFrame }: PlacedPeaks, range: FrameRange): number {
  const { binFrames, rms } = peaks.levels[1]
  const from = Math.max(0, Math.floor((range.startFrame - originFrame) / binFrames))
  const to = Math.min(rms.length, Math.ceil((range.endFrame - originFrame) / binFrames))
  const floor = 10 ** (FLOOR_DECIBELS / 10)
  let power = 0
  let count = 0
  for (let bin = from; bin < to; bin++) {
    const level = rms[bin] * rms[bin]
    if (level < floor) continue
    power += level
    count++
  }
  return count === 0 ? -Infinity : 10 * Math.log10(power / count)
}

/** The gain that makes a take as loud as the ground over a range, at most 12 dB either way; 0 if either is silent. */
export function matchGainDecibels(ground: PlacedPeaks, take: PlacedPeaks, range: FrameRange): number {
  const difference = sungLevelDecibels(ground, range) - sungLevelDecibels(take, range)
  return Number.isFinite(difference) ? Math.max(-MAX_MATCH_DECIBELS, Math.min(MAX_MATCH_DECIBELS, difference)) : 0
}

/**
 * The gain with which a take fits the picks that it would meet: both takes are heard over the same stretch round each seam, so that what the
 * song itself does there, a soft line after a loud one, is left alone. Within 6 dB; 0 if it meets nothing that can be compared.
 */
export function seamMatchDecibels(
  song: Song,
  { layerId, takeId, peaksOf, ...range }: { layerId: LayerId; takeId: TakeId; peaksOf: (take: Take) => PlacedPeaks | null } & FrameRange,
): number {
  const own = peaksOf(requireTake(song, takeId))
  if (!own) return 0
  const { picks } = currentComp(requireLayer(song, layerId))
  const before = picks.filter(pick => pick.startFrame < range.startFrame && pick.endFrame > range.startFrame - NEIGHBOUR_FRAMES).at(-1)
  const after = picks.find(pick => pick.endFrame > range.endFrame && pick.startFrame < range.endFrame + NEIGHBOUR_FRAMES)
  const wanted: number[] = []
  for (const [pick, frame] of [
    [before, range.startFrame],
    [after, range.endFrame],
  ] as const) {
    if (!pick) continue
    // A stretch of a take goes on as it was.
    if (pick.takeId === takeId) return pick.gainDecibels
    const other = peaksOf(requireTake(song, pick.takeId))
    if (!other) continue
    const around = { startFrame: frame - SEAM_SIDE_FRAMES, endFrame: frame + SEAM_SIDE_FRAMES }
    const difference = sungLevelDecibels(other, around) - sungLevelDecibels(own, around)
    if (Number.isFinite(difference)) wanted.push(difference + pick.gainDecibels)
  }
  if (wanted.length === 0) return 0
  const mean = wanted.reduce((sum, decibels) => sum + decibels, 0) / wanted.length
  return Math.round(10 * Math.max(-MAX_SEAM_MATCH_DECIBELS, Math.min(MAX_SEAM_MATCH_DECIBELS, mean))) / 10
}
