/** The memory that the worklets share with the page and the feeder: where the song is, how loud it is. */
import { BLOCK_FRAMES } from '../core/audio/frames'
import { MOST_METERS } from '../core/mix/renderer'

/** Places in the transport's array of float64. Written by the mix worklet. */
export const TRANSPORT = {
  playing: 0,
  /** Song frame that sounds next, loop taken in. */
  songFrame: 1,
  anchorContextFrame: 2,
  anchorSongFrame: 3,
  loopStartFrame: 4,
  loopEndFrame: 5,
  missedBlocks: 6,
  compressorReductionDecibels: 7,
  ceilingReductionDecibels: 8,
  /** Loudness in LUFS, of 0.4 s, of 3 s and since playing began; what 3 s of the output lose in mono, in decibels. */
  voicesShortLufs: 9,
  beatShortLufs: 10,
  outputMomentaryLufs: 11,
  outputShortLufs: 12,
  outputIntegratedLufs: 13,
  monoLossDecibels: 14,
  /** Peaks, in the order of the plan's meters. */
  peaks: 15,
} as const
const TRANSPORT_LENGTH = TRANSPORT.peaks + MOST_METERS

export function makeTransportState(): Float64Array<SharedArrayBuffer> {
  return new Float64Array(new SharedArrayBuffer(TRANSPORT_LENGTH * 8))
}

/** The song frame at a frame of the audio clock, while the transport rolls; loops are followed. */
export function songFrameAt(state: Float64Array, contextFrame: number): number {
  const unwrapped = state[TRANSPORT.anchorSongFrame]! + (contextFrame - state[TRANSPORT.anchorContextFrame]!)
  return wrapIntoLoop(unwrapped, state[TRANSPORT.loopStartFrame]!, state[TRANSPORT.loopEndFrame]!)
}

/** A loop whose end does not lie after its start is none. */
export function wrapIntoLoop(frame: number, loopStartFrame: number, loopEndFrame: number): number {
  if (loopEndFrame <= loopStartFrame || frame < loopEndFrame) return frame
  return loopStartFrame + ((frame - loopStartFrame) % (loopEndFrame - loopStartFrame))
}

/** Frames the capture ring holds: 2.7 s. */
export const RING_FRAMES = 131_072
/** Places in the capture's array of int32. Frame counts run on; the ring's place is the count modulo its length. */
export const CAPTURE = { armed: 0, writtenFrames: 1, readFrames: 2, lostFrames: 3, channel: 4, firstContextFrame: 5, gapBlocks: 6 } as const
/** Values of `armed`. While waiting, the ring holds the last second, and capture begins by itself with the first block above the threshold. */
export const ARMED = { no: 0, yes: 1, waiting: 2 } as const
/** Kept from before the threshold was passed: a second in whole blocks. */
export const BEFORE_SOUND_FRAMES = 375 * BLOCK_FRAMES
/** Places in the capture's array of float32 levels, linear, of the last block that was loudest since the page looked. */
export const LEVEL = { peak: 0, rms: 1, clippedSamples: 2, blocks: 3, threshold: 4 } as const

export interface CaptureState {
  control: Int32Array<SharedArrayBuffer>
  ring: Float32Array<SharedArrayBuffer>
  levels: Float32Array<SharedArrayBuffer>
}

export function makeCaptureState(): CaptureState {
  return {
    control: new Int32Array(new SharedArrayBuffer(8 * 4)),
    ring: new Float32Array(new SharedArrayBuffer((RING_FRAMES + BLOCK_FRAMES) * 4)),
    levels: new Float32Array(new SharedArrayBuffer(5 * 4)),
  }
}
