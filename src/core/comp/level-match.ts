/** Comparing takes at equal loudness: how loud a take is over a stretch, by its stored levels. */
import type { FrameRange } from '../song/select'
import type { PlacedPeaks } from './quiet-spot'

const FLOOR_DECIBELS = -50
const MAX_MATCH_DECIBELS = 12

/** Mean level in decibels of what is sung within a range; pauses do not count. -Infinity if nothing is sung. */
export function sungLevelDecibels({ peaks, originFrame }: PlacedPeaks, range: FrameRange): number {
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
