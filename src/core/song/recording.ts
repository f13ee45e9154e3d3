/** From one continuous capture to takes in their places. */
import type { FrameRange } from './select'

/** What must be known to place a capture in the song; counted on the audio clock. */
export interface CapturePlacement {
  /** The clock's frame of the first captured frame. */
  captureContextFrame: number
  /** At this frame of the clock the transport sounded this frame of the song. */
  anchorContextFrame: number
  anchorSongFrame: number
  /** What was to be recorded. */
  range: FrameRange
  looping: boolean
  roundTripFrames: number
}

export interface CutPass extends FrameRange {
  /** Counted from 1. */
  pass: number
  /** Song frame of the asset's frame 0, for this pass. */
  originFrame: number
}

/** Kept before and after each pass, so that a line begun early is not clipped. */
const HANDLE_FRAMES = 48_000
/** Less than this inside the range is no take. */
const MINIMUM_PASS_FRAMES = 24_000

/**
 * The passes that a capture holds. A captured frame was sung when the transport sounded what the singer heard: the round trip earlier.
 * Each pass of a loop is the same capture at another origin; neighbours share their handles.
 */
export function cutPasses(assetFrames: number, placement: CapturePlacement): CutPass[] {
  const { range } = placement
  const firstOrigin = placement.anchorSongFrame + (placement.captureContextFrame - placement.anchorContextFrame) - placement.roundTripFrames
  const passes: CutPass[] = []
  const loopFrames = range.endFrame - range.startFrame
  for (let pass = 1; ; pass++) {
    const originFrame = firstOrigin - (pass - 1) * loopFrames
    const assetEnd = originFrame + assetFrames
    if (pass > 1 && !placement.looping) break
    if (Math.min(assetEnd, range.endFrame) - Math.max(originFrame, range.startFrame) < MINIMUM_PASS_FRAMES) break
    passes.push({ pass, originFrame, startFrame: Math.max(originFrame, range.startFrame - HANDLE_FRAMES), endFrame: Math.min(assetEnd, range.endFrame + HANDLE_FRAMES) })
  }
  return passes
}
