/** The capture worklet: one channel of the input into the ring, stamped with the audio clock; and its level. */
import { BLOCK_FRAMES } from '../core/audio/frames'
import { CAPTURE, LEVEL, RING_FRAMES, type CaptureState } from './shared-state'

class CaptureProcessor extends AudioWorkletProcessor {
  private readonly control: Int32Array
  private readonly ring: Float32Array
  private readonly levels: Float32Array
  private wasArmed = false
  /** The clock's frame of the block that should come next. */
  private expectedFrame = 0

  constructor(options: { processorOptions: CaptureState }) {
    super()
    this.control = options.processorOptions.control
    this.ring = options.processorOptions.ring
    this.levels = options.processorOptions.levels
  }

  process(inputs: Float32Array[][]): boolean {
    const input = inputs[0]!
    const channel = Atomics.load(this.control, CAPTURE.channel)
    const samples = input[channel] ?? input[0]
    this.measure(samples)
    const armed = Atomics.load(this.control, CAPTURE.armed) === 1
    if (armed) this.write(samples)
    this.wasArmed = armed
    return true
  }

  /** Blocks that did not come are silence of the same length, so that nothing after them is early: the browser may pass over some, as while it starts. */
  private write(samples: Float32Array | undefined): void {
    if (!this.wasArmed) Atomics.store(this.control, CAPTURE.firstContextFrame, currentFrame)
    else for (let frame = this.expectedFrame; frame < currentFrame; frame += BLOCK_FRAMES) this.writeBlock(undefined)
    this.writeBlock(samples)
    this.expectedFrame = currentFrame + BLOCK_FRAMES
  }

  private writeBlock(samples: Float32Array | undefined): void {
    const { control, ring } = this
    const written = Atomics.load(control, CAPTURE.writtenFrames)
    if (written - Atomics.load(control, CAPTURE.readFrames) > RING_FRAMES - BLOCK_FRAMES) {
      Atomics.add(control, CAPTURE.lostFrames, BLOCK_FRAMES)
      return
    }
    const at = written % RING_FRAMES
    if (samples) for (let i = 0; i < BLOCK_FRAMES; i++) ring[at + i] = samples[i]!
    else {
      for (let i = 0; i < BLOCK_FRAMES; i++) ring[at + i] = 0
      Atomics.add(control, CAPTURE.gapBlocks, 1)
    }
    Atomics.store(control, CAPTURE.writtenFrames, written + BLOCK_FRAMES)
  }

  private measure(samples: Float32Array | undefined): void {
    const { levels } = this
    let peak = 0
    let sum = 0
    let clipped = 0
    if (samples) {
      for (let i = 0; i < samples.length; i++) {
        const level = Math.abs(samples[i]!)
        if (level > peak) peak = level
        if (level >= 0.9999) clipped++
        sum += level * level
      }
    }
    levels[LEVEL.peak] = Math.max(peak, levels[LEVEL.peak]! * 0.985)
    levels[LEVEL.rms] = Math.sqrt(levels[LEVEL.rms]! ** 2 * 0.98 + (0.02 * sum) / BLOCK_FRAMES)
    levels[LEVEL.clippedSamples] = levels[LEVEL.clippedSamples]! + clipped
    levels[LEVEL.blocks] = levels[LEVEL.blocks]! + 1
  }
}

registerProcessor('plush-capture', CaptureProcessor)
