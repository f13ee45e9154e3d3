/** Seams fall in quiet: the softest spot near a line's edge. */
import type { Peaks } from '../audio/peaks'
import type { FrameRange } from '../song/select'

/** A take's stored levels and the song frame at which they begin. */
export interface PlacedPeaks {
  peaks: Peaks
  originFrame: number
}

/** How far from a line's edge a seam may go, at most. */
export const SEAM_REACH_FRAMES = 24_000
/** The seam is judged by the level this far round it. */
const HALF_WIDTH_FRAMES = 720

/**
 * The quietest spot within reach of a frame, judged by all sounds together; the nearest one where several are equally quiet.
 * Sound beyond a take's ends counts as silence. Without any sound the frame itself comes back.
 */
export function quietSpotNear(sounds: readonly PlacedPeaks[], frame: number, reachFrames = SEAM_REACH_FRAMES): number {
  if (sounds.length === 0) return frame
  const step = sounds[0].peaks.levels[0].binFrames
  let best = frame
  let bestCost = Infinity
  for (let offset = -reachFrames; offset <= reachFrames; offset += step) {
    const at = frame + offset
    let power = 0
    for (const sound of sounds) power += powerAround(sound, at)
    // Levels below -66 dBFS are all silence; distance then decides, and always a little.
    const level = 10 * Math.log10(power + 2.5e-7)
    const cost = level + 6 * Math.abs(offset / reachFrames)
    if (cost < bestCost) [best, bestCost] = [at, cost]
  }
  return best
}

function powerAround({ peaks, originFrame }: PlacedPeaks, frame: number): number {
  const { binFrames, rms } = peaks.levels[0]
  const from = Math.floor((frame - HALF_WIDTH_FRAMES - originFrame) / binFrames)
  const to = Math.ceil((frame + HALF_WIDTH_FRAMES - originFrame) / binFrames)
  let power = 0
  for (let bin = Math.max(0, from); bin < Math.min(rms.length, to); bin++) power += rms[bin] * rms[bin]
  return power / (to - from)
}

/** A line's range with both edges moved to quiet spots. */
export function quietRange(sounds: readonly PlacedPeaks[], range: FrameRange): FrameRange {
  const reach = Math.min(SEAM_REACH_FRAMES, Math.floor((range.endFrame - range.startFrame) / 3))
  return { startFrame: quietSpotNear(sounds, range.startFrame, reach), endFrame: quietSpotNear(sounds, range.endFrame, reach) }
}
