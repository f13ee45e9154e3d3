/** A simulated audio interface: what is sent to it comes back late, as loud as the headphones leak, with the room's noise and hum. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { makeRandom } from '../audio/random'

export interface InterfaceSettings {
  /** From the output back to the input, whole frames; 240 (5 ms) to 19 200 (400 ms). */
  roundTripFrames: number
  /** How much of the headphones the microphone hears; -100 and below is nothing. 0 is a headphone held to it. */
  leakDecibels: number
  /** Root mean square of the room's noise; -120 is none. */
  noiseDbfs: number
  /** Mains hum at 50 Hz with harmonics; -120 is none. */
  humDbfs: number
}

export const ROUND_TRIP_RANGE_FRAMES = { min: 240, max: 19_200 } as const
export const USUAL_INTERFACE: InterfaceSettings = { roundTripFrames: 1_105, leakDecibels: -100, noiseDbfs: -84, humDbfs: -120 }

const RING_FRAMES = 32_768
/** As any loudspeaker in any room, the leak rings at one frequency most: 6 dB more than elsewhere. */
const RINGING_HZ = 1_150
const RINGING_Q = 9
const RINGING_STEP = 2 * Math.sin((Math.PI * RINGING_HZ) / SAMPLE_RATE_HZ)

/** Keeps what was sent; `process` gives what comes in. Both are told the clock's frame, and frames that were never sent are silence. */
export class SimulatedInterface {
  private readonly sent = new Float32Array(RING_FRAMES)
  private newestFrame = -1
  private readonly random = makeRandom(20)
  private settings = USUAL_INTERFACE
  /** Two states of the ringing band. */
  private low = 0
  private band = 0

  set(settings: InterfaceSettings): void {
    this.settings = settings
  }

  get roundTripFrames(): number {
    return this.settings.roundTripFrames
  }

  send(firstFrame: number, left: Float32Array, right: Float32Array): void {
    for (let frame = Math.max(this.newestFrame + 1, firstFrame - RING_FRAMES); frame < firstFrame; frame++) this.sent[frame % RING_FRAMES] = 0
    for (let i = 0; i < left.length; i++) this.sent[(firstFrame + i) % RING_FRAMES] = 0.5 * (left[i] + right[i])
    this.newestFrame = firstFrame + left.length - 1
  }

  /** A state-variable filter's band, added to what it came from. @see H. Chamberlin, Musical Applications of Microprocessors, 1980. */
  private ring(sample: number): number {
    this.low += RINGING_STEP * this.band
    this.band += RINGING_STEP * (sample - this.low - this.band / RINGING_Q)
    return sample + this.band / RINGING_Q
  }

  /** Adds what the microphone hears besides the voice into a block that begins at a frame of the clock. */
  addInto(output: Float32Array, firstFrame: number): void {
    const { settings, sent, random } = this
    const leak = settings.leakDecibels <= -100 ? 0 : decibelsToGain(settings.leakDecibels)
    const noise = settings.noiseDbfs <= -120 ? 0 : decibelsToGain(settings.noiseDbfs) * Math.sqrt(3)
    const hum = settings.humDbfs <= -120 ? 0 : decibelsToGain(settings.humDbfs) * Math.SQRT2
    for (let i = 0; i < output.length; i++) {
      const frame = firstFrame + i - settings.roundTripFrames
      if (leak > 0 && frame >= 0 && frame <= this.newestFrame && frame > this.newestFrame - RING_FRAMES)
        output[i] += leak * this.ring(sent[frame % RING_FRAMES])
      if (noise > 0) output[i] += noise * (2 * random() - 1)
      if (hum > 0) output[i] += hum * mains(firstFrame + i)
    }
  }
}

/** 50 Hz and its third and fifth, as transformers hum; root mean square 0.71. */
function mains(frame: number): number {
  const angle = (2 * Math.PI * 50 * (frame % SAMPLE_RATE_HZ)) / SAMPLE_RATE_HZ
  return 0.9 * Math.sin(angle) + 0.35 * Math.sin(3 * angle + 1) + 0.2 * Math.sin(5 * angle + 2)
}
