/** From one continuous capture to takes in their places. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { Peaks } from '../audio/peaks'
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
/** By pass, from 1. A pass can be starred and put aside; what goes to the bin is neither. */
export type PassMarks = Record<number, readonly PassMark[]>

/** Said once more, a mark is taken back. */
export function withMark(marks: PassMarks, pass: number, mark: PassMark): PassMarks {
  const said = marks[pass] ?? []
  const others = said.filter(entry => entry !== mark && (entry === 'bin') === (mark === 'bin'))
  return { ...marks, [pass]: said.includes(mark) ? others : [...others, mark] }
}

export interface CutPass extends FrameRange {
  /** Counted from 1. */
  pass: number
  /** Song frame of the asset's frame 0, for this pass. */
  originFrame: number
  /** Too little of it lies in the range: it is kept, but in the bin. */
  beside: boolean
}

/** Kept before and after each pass, so that a line begun early is not clipped; before it up to twice as much if there is pre-roll. */
const HANDLE_FRAMES = SAMPLE_RATE_HZ
/** Less than this inside the range is no take; of a range that is shorter, half of it. */
const MINIMUM_PASS_FRAMES = 24_000

/**
 * The passes that a capture holds. A captured frame was sung when the transport sounded what the singer heard: the round trip earlier.
 * Each pass of a loop is the same capture at another origin; neighbours share their handles. All that was sung lies in one of them: the
 * first begins no later than the first sound, the last ends with the capture. A capture that hardly touches the range is one pass beside it.
 * @param firstSoundFrame Of the capture: where something is heard first (see `findFirstSound`); null if that is not known.
 */
export function cutPasses(assetFrames: number, placement: CapturePlacement, firstSoundFrame: number | null = null): CutPass[] {
  const { range } = placement
  const firstOrigin = placement.anchorSongFrame + (placement.captureContextFrame - placement.anchorContextFrame) - placement.roundTripFrames
  const rollFrame = placement.preRollFrame ?? range.startFrame
  const beforeFrames = Math.max(HANDLE_FRAMES, Math.min(2 * HANDLE_FRAMES, range.startFrame - rollFrame))
  const turnFrames = range.endFrame - rollFrame
  const leastFrames = Math.min(MINIMUM_PASS_FRAMES, (range.endFrame - range.startFrame) / 2)
  const passes: CutPass[] = []
  for (let pass = 1; pass === 1 || placement.looping; pass++) {
    const originFrame = firstOrigin - (pass - 1) * turnFrames
    const assetEnd = originFrame + assetFrames
    if (Math.min(assetEnd, range.endFrame) - Math.max(originFrame, range.startFrame) < leastFrames) break
    passes.push({
      pass,
      originFrame,
      startFrame: Math.max(originFrame, range.startFrame - beforeFrames),
      endFrame: Math.min(assetEnd, range.endFrame + HANDLE_FRAMES),
      beside: false,
    })
  }
  const first = passes[0]
  if (!first) return assetFrames > 0 ? [{ pass: 1, originFrame: firstOrigin, startFrame: firstOrigin, endFrame: firstOrigin + assetFrames, beside: true }] : []
  if (firstSoundFrame !== null) first.startFrame = Math.max(firstOrigin, Math.min(first.startFrame, firstOrigin + firstSoundFrame - BEFORE_SOUND_FRAMES))
  const last = passes[passes.length - 1]
  last.endFrame = last.originFrame + assetFrames
  return passes
}

/** Kept before the first sound: its consonant. */
const BEFORE_SOUND_FRAMES = 9_600
/** A voice is at least so much louder than the room, and at least so loud; set on the practice singer at whisper level. */
const ABOVE_ROOM = 10
const LEAST_RMS = 0.002
const SOUND_BINS = 4

/** The first frame of a capture at which something louder than the room is heard for 40 ms; null if nothing is. */
export function findFirstSound({ levels }: Peaks): number | null {
  const { rms, binFrames } = levels[1]
  const room = [...rms].sort((a, b) => a - b)[Math.floor(rms.length / 10)] ?? 0
  const threshold = Math.max(LEAST_RMS, ABOVE_ROOM * room)
  for (let bin = 0, above = 0; bin < rms.length; bin++) {
    above = rms[bin] > threshold ? above + 1 : 0
    if (above === SOUND_BINS) return (bin - SOUND_BINS + 1) * binFrames
  }
  return null
}

/** The flaws of a capture that lie in a pass of it, in song frames. */
export function flawsOfPass(flaws: readonly CaptureFlaw[], pass: CutPass): TakeFlaw[] {
  return flaws
    .map(({ atFrame, frames, kind }): TakeFlaw => ({
      startFrame: pass.originFrame + atFrame,
      endFrame: pass.originFrame + atFrame + Math.max(1, frames),
      kind,
    }))
    .filter(flaw => overlapFrames(flaw, pass) > 0)
    .slice(0, 1_000)
}
