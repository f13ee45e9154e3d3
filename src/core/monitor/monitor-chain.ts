/** What the singer hears of themself: level, light compression, an echo in time and a room, in the headphones only. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { StereoCompressor, USUAL_COMPRESSOR } from '../effects/compressor'
import { DelayLine } from '../effects/delay-line'
import { Glide } from '../effects/glide'
import { Plate, USUAL_PLATE } from '../effects/reverb'
import { LiveTuner, type LiveTuning } from '../tune/live-tuner'
import { FeedbackGuard } from './feedback-guard'

export interface MonitorSettings {
  /** False: silence. */
  on: boolean
  gainDecibels: number
  /** Send into the room; -60 and below is off. */
  roomDecibels: number
  /** Send into the echo; -60 and below is off. */
  echoDecibels: number
  /** Time of one echo, up to 2 s. */
  echoSeconds: number
  compress: boolean
  /** What the voice is drawn to at this moment; null: as sung. */
  tune: LiveTuning | null
}

export const MONITOR_OFF: MonitorSettings = { on: false, gainDecibels: -6, roomDecibels: -18, echoDecibels: -60, echoSeconds: 0.3, compress: true, tune: null }

const ROOM = { ...USUAL_PLATE, decaySeconds: 1.4, dampingHz: 5_500 }
const LIGHT_COMPRESSION = { ...USUAL_COMPRESSOR, thresholdDecibels: -20, ratio: 2.5, attackSeconds: 0.006, makeupDecibels: 3 }
const ECHO_FEEDBACK = 0.35
const MAX_ECHO_FRAMES = 2 * SAMPLE_RATE_HZ
/** Nothing of the voice leaves louder than this; below half of it nothing is bent. */
const CEILING = decibelsToGain(-3)
/** A part comes back at most this fast after it was off: 60 ms. */
const OPENING_FRAMES = 2_880

/** Fed with the input block by block; adds no delay of its own but where it tunes. Once it has howled it is silent until switched on anew. */
export class MonitorChain {
  private settings = MONITOR_OFF
  private readonly gain = new Glide(0)
  private readonly compressor = new StereoCompressor(LIGHT_COMPRESSION)
  private readonly plate = new Plate(ROOM)
  private readonly guard = new FeedbackGuard()
  private readonly tuner = new LiveTuner()
  private readonly voice = new Float32Array(BLOCK_FRAMES)
  private readonly echo = new DelayLine(MAX_ECHO_FRAMES)
  private readonly back = new Float32Array(BLOCK_FRAMES)
  private opening = 0
  private tripped = false
  private readonly sendLeft = new Float32Array(BLOCK_FRAMES)
  private readonly sendRight = new Float32Array(BLOCK_FRAMES)

  set(settings: MonitorSettings): void {
    if (settings.on && !this.settings.on) {
      this.tripped = false
      this.opening = 0
      this.guard.reset()
      this.plate.reset()
      this.echo.reset()
      this.compressor.reset()
    }
    if (settings.tune) this.tuner.set(settings.tune)
    if (settings.tune && !this.settings.tune) this.tuner.reset()
    this.settings = settings
    this.gain.set(settings.on ? decibelsToGain(settings.gainDecibels) : 0)
  }

  /** Replaces what is in the outputs, one block of BLOCK_FRAMES. @returns true in the block in which a howl was noticed. */
  process(input: Float32Array, left: Float32Array, right: Float32Array): boolean {
    this.gain.advance()
    if (!this.settings.on || this.tripped) {
      left.fill(0)
      right.fill(0)
      return false
    }
    const { voice } = this
    voice.set(input)
    if (this.settings.tune) this.tuner.process(voice)
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const sample = voice[i] * this.gain.at(i) * Math.min(1, (this.opening + i) / OPENING_FRAMES)
      left[i] = sample
      right[i] = sample
    }
    this.opening += BLOCK_FRAMES
    if (this.settings.compress) this.compressor.process(left, right)
    this.addSpaces(left, right)
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      left[i] = softCeiling(left[i])
      right[i] = softCeiling(right[i])
    }
    this.tripped = this.guard.process(left)
    if (this.tripped) for (let i = 0; i < BLOCK_FRAMES; i++) left[i] = right[i] = left[i] * (1 - (i + 1) / BLOCK_FRAMES)
    return this.tripped
  }

  private addSpaces(left: Float32Array, right: Float32Array): void {
    const { sendLeft, sendRight, back, echo, settings } = this
    const roomGain = settings.roomDecibels <= -60 ? 0 : decibelsToGain(settings.roomDecibels)
    const echoGain = settings.echoDecibels <= -60 ? 0 : decibelsToGain(settings.echoDecibels)
    const echoFrames = Math.max(BLOCK_FRAMES, Math.min(MAX_ECHO_FRAMES - BLOCK_FRAMES, Math.round(settings.echoSeconds * SAMPLE_RATE_HZ)))
    sendLeft.set(left)
    sendRight.set(right)
    echo.read(back, echoFrames)
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      left[i] += back[i]
      right[i] += back[i]
      back[i] = sendLeft[i] * echoGain + back[i] * ECHO_FEEDBACK
    }
    echo.write(back)
    this.plate.addInto(left, right, sendLeft, sendRight, roomGain)
  }
}

/** Straight up to half the ceiling, then bending towards it. */
function softCeiling(sample: number): number {
  const level = Math.abs(sample)
  const knee = CEILING / 2
  if (level <= knee) return sample
  return Math.sign(sample) * (knee + (CEILING - knee) * Math.tanh((level - knee) / (CEILING - knee)))
}
