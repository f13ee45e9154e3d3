/** From one continuous capture to takes in their places. */
import type { TakeFlaw } from './schema'
import { overlapFrames, type FrameRange } from './select'

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
  /** Where the song is heard from, if before the range; each turn of a loop begins there. */
  preRollFrame?: number
  roundTripFrames: number
}

/** A stretch of a capture that is not as it was sung; frames of the capture. */
export interface CaptureFlaw {
  atFrame: number
  frames: number
  kind: TakeFlaw['kind']
}

/** What the singer said of a pass just sung. */
export type PassMark = 'star' | 'spare' | 'bin'
/** By pass, from 1. */
export type PassMarks = Record<number, PassMark>

export interface CutPass extends FrameRange {
  /** Counted from 1. */
  pass: number
  /** Song frame of the asset's frame 0, for this pass. */
  originFrame: number
}

/** Kept before and after each pass, so that a line begun early is not clipped; before it up to twice as much if there is pre-roll. */
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
  const rollFrame = placement.preRollFrame ?? range.startFrame
  const beforeFrames = Math.max(HANDLE_FRAMES, Math.min(2 * HANDLE_FRAMES, range.startFrame - rollFrame))
  const turnFrames = range.endFrame - rollFrame
  const passes: CutPass[] = []
  for (let pass = 1; ; pass++) {
    const originFrame = firstOrigin - (pass - 1) * turnFrames
    const assetEnd = originFrame + assetFrames
    if (pass > 1 && !placement.looping) break
    if (Math.min(assetEnd, range.endFrame) - Math.max(originFrame, range.startFrame) < MINIMUM_PASS_FRAMES) break
    passes.push({ pass, originFrame, startFrame: Math.max(originFrame, range.startFrame - beforeFrames), endFrame: Math.min(assetEnd, range.endFrame + HANDLE_FRAMES) })
  }
  return passes
}

/** The flaws of a capture that lie in a pass of it, in song frames. */
export function flawsOfPass(flaws: readonly CaptureFlaw[], pass: CutPass): TakeFlaw[] {
  return flaws
    .map(({ atFrame, frames, kind }): TakeFlaw => ({ startFrame: pass.originFrame + atFrame, endFrame: pass.originFrame + atFrame + Math.max(1, frames), kind }))
    .filter(flaw => overlapFrames(flaw, pass) > 0)
    .slice(0, 1_000)
}
