/** The capture worklet: one channel of the input into the ring, stamped with the audio clock; and its level. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../core/audio/frames'
import { BlockClock } from './block-clock'
import type { FromCapture } from './messages'
import { ARMED, BEFORE_SOUND_FRAMES, CAPTURE, LEVEL, RING_FRAMES, type CaptureState } from './shared-state'

/** A break longer than this is a pause of a gated device. */
const MOST_HOLE_FRAMES = SAMPLE_RATE_HZ
const ABRUPT = 0.004

class CaptureProcessor extends AudioWorkletProcessor {
  private readonly control: Int32Array
  private readonly ring: Float32Array
  private readonly levels: Float32Array
  private wasArmed = false
  private readonly clock = new BlockClock()
  /** The ring's count at the capture's first frame. */
  private firstWritten = 0
  private zeroFrames = 0
  private owedBlocks = 0
  private lastSample = 0

  constructor(options: { processorOptions: CaptureState }) {
    super()
    this.control = options.processorOptions.control
    this.ring = options.processorOptions.ring
    this.levels = options.processorOptions.levels
  }

  process(inputs: Float32Array[][]): boolean {
    this.clock.tick(currentFrame)
    const input = inputs[0]!
    const channel = Atomics.load(this.control, CAPTURE.channel)
    const samples = input[channel] ?? input[0]
    const peak = this.measure(samples)
    let armed = Atomics.load(this.control, CAPTURE.armed)
    if (armed === ARMED.waiting) {
      this.keepRecent(samples)
      if (peak >= this.levels[LEVEL.threshold]!) {
        Atomics.store(this.control, CAPTURE.armed, ARMED.yes)
        armed = ARMED.yes
        this.wasArmed = true
      }
    } else if (armed === ARMED.yes) this.write(samples)
    this.wasArmed = armed === ARMED.yes
    return true
  }

  /** The ring holds what came just before; its first frame moves along. */
  private keepRecent(samples: Float32Array | undefined): void {
    const { control } = this
    this.writeBlock(samples)
    const written = Atomics.load(control, CAPTURE.writtenFrames)
    const kept = Math.min(written, BEFORE_SOUND_FRAMES)
    Atomics.store(control, CAPTURE.readFrames, written - kept)
    Atomics.store(control, CAPTURE.firstContextFrame, this.clock.frame + BLOCK_FRAMES - kept)
    this.firstWritten = written - kept
  }

  /** Blocks that did not come are silence of the same length, so that nothing after them is early: the browser may pass over some, as while it starts. */
  private write(samples: Float32Array | undefined): void {
    const { frame, passedOverFrames } = this.clock
    if (!this.wasArmed) {
      Atomics.store(this.control, CAPTURE.firstContextFrame, frame)
      this.firstWritten = Atomics.load(this.control, CAPTURE.writtenFrames)
      this.zeroFrames = this.lastSample = this.owedBlocks = 0
    } else if (passedOverFrames > 0) {
      this.tell(passedOverFrames)
      for (let passed = 0; passed < passedOverFrames; passed += BLOCK_FRAMES) this.writeBlock(undefined)
    }
    this.watchForHoles(samples)
    this.writeBlock(samples)
  }

  /** A sound that breaks off to digital silence and comes back is a device that delivered nothing meanwhile. */
  private watchForHoles(samples: Float32Array | undefined): void {
    const isZero = !samples || samples.every(sample => sample === 0)
    if (isZero) {
      this.zeroFrames += BLOCK_FRAMES
      return
    }
    if (this.zeroFrames > 0 && this.zeroFrames <= MOST_HOLE_FRAMES && Math.abs(this.lastSample) > ABRUPT && Math.abs(samples![0]!) > ABRUPT)
      this.tell(this.zeroFrames)
    this.zeroFrames = 0
    this.lastSample = samples![BLOCK_FRAMES - 1]!
  }

  /** `frames` that end where the next block begins are missing. */
  private tell(frames: number): void {
    const atFrame = Atomics.load(this.control, CAPTURE.writtenFrames) - this.firstWritten - (this.zeroFrames > 0 ? frames : 0)
    this.port.postMessage({ atFrame, frames, kind: 'missing' } satisfies FromCapture)
  }

  /** Where the ring is full, silence of the same length follows once there is room, so that nothing after it is early. */
  private writeBlock(samples: Float32Array | undefined): void {
    const { control, ring } = this
    if (this.owedBlocks > 0 && this.hasRoom())
      this.port.postMessage({
        atFrame: Atomics.load(control, CAPTURE.writtenFrames) - this.firstWritten,
        frames: this.owedBlocks * BLOCK_FRAMES,
        kind: 'missing',
      } satisfies FromCapture)
    while (this.owedBlocks > 0 && this.hasRoom()) {
      this.owedBlocks--
      this.put(ring, undefined)
    }
    if (this.owedBlocks === 0 && this.hasRoom()) this.put(ring, samples)
    else {
      this.owedBlocks++
      Atomics.add(control, CAPTURE.lostFrames, BLOCK_FRAMES)
    }
  }

  private hasRoom(): boolean {
    return Atomics.load(this.control, CAPTURE.writtenFrames) - Atomics.load(this.control, CAPTURE.readFrames) <= RING_FRAMES - BLOCK_FRAMES
  }

  private put(ring: Float32Array, samples: Float32Array | undefined): void {
    const { control } = this
    const written = Atomics.load(control, CAPTURE.writtenFrames)
    const at = written % RING_FRAMES
    for (let i = 0; i < BLOCK_FRAMES; i++) ring[at + i] = samples ? samples[i]! : 0
    if (!samples) Atomics.add(control, CAPTURE.gapBlocks, 1)
    Atomics.store(control, CAPTURE.writtenFrames, written + BLOCK_FRAMES)
  }

  private measure(samples: Float32Array | undefined): number {
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
    return peak
  }
}

registerProcessor('plush-capture', CaptureProcessor)
