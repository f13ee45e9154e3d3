/** A stretch of the song in frames of the takes that are picked there. */
import type { Pick, Take } from '../song/schema'
import type { FrameRange } from '../song/select'

/** Of a stretch, what a pick plays of it, in frames of its take's asset; null where the pick is not in it. */
export function inAsset(pick: Pick, take: Take, stretch: FrameRange): FrameRange | null {
  const originFrame = originOf(pick, take)
  const startFrame = Math.max(0, Math.round(Math.max(pick.startFrame, stretch.startFrame) - originFrame))
  const endFrame = Math.round(Math.min(pick.endFrame, stretch.endFrame) - originFrame)
  return endFrame > startFrame ? { startFrame, endFrame } : null
}

/** Where in the song the asset's frame 0 lies. */
export function originOf({ nudgeFrames }: Pick, { originFrame }: Take): number {
  return originFrame + nudgeFrames
}
