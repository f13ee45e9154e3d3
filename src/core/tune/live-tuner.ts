/** A voice drawn to its rungs as it comes in, for the headphones only: the take stays as sung. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { TuneSettings } from '../song/tidy-schema'
import { LivePitch } from './live-pitch'

/** The shortest way through, and what splices need. */
const LEAST_DELAY_FRAMES = 160
const SPLICE_FRAMES = 128
const RING_FRAMES = 8_192
/** The voice is never drawn to its note, nor let go where it has none, faster than this. */
const LEAST_DRAW_SECONDS = 0.005
/** A note is only left for another once the voice is this much nearer to that. */
const HOLD_CENTS = 18
const MOST_CENTS = 180
/** C4 against 440 Hz. */
const C_CENTS = -900

/** What a layer's tuning asks of the live one. */
export interface LiveTuning extends Pick<TuneSettings, 'speedMilliseconds' | 'amount' | 'toleranceCents'> {
  /** Cents above C (261.63 Hz) of every rung in an octave, 0 to 1200; none: as sung. */
  rungs: readonly number[]
}

/** The longest the voice is held back: a period of the lowest pitch beyond the shortest way. */
export const MOST_TUNER_DELAY_FRAMES = LEAST_DELAY_FRAMES + Math.ceil(SAMPLE_RATE_HZ / 75)

/**
 * The voice is read from a short delay at a rate that bends its pitch; when the reader has run too far ahead or behind it leaps by whole
 * periods, where the wave is the same, over a short crossfade. Without a pitch it passes unchanged.
 * @see K. Lent, An efficient method for pitch shifting digitally sampled sounds, Computer Music Journal 13 (1989), for splicing by periods.
 */
export class LiveTuner {
  private readonly pitch = new LivePitch()
  private readonly ring = new Float32Array(RING_FRAMES)
  private writeAt = 0
  private delay = LEAST_DELAY_FRAMES
  /** The reader that is faded out during a splice. */
  private oldDelay = 0
  private spliceLeft = 0
  private cents = 0
  private target: number | null = null
  private tuning: LiveTuning = { rungs: [], speedMilliseconds: 0, amount: 0, toleranceCents: 0 }

  set(tuning: LiveTuning): void {
    this.tuning = tuning
  }

  reset(): void {
    this.pitch.reset()
    this.ring.fill(0)
    this.delay = LEAST_DELAY_FRAMES
    this.spliceLeft = this.cents = 0
    this.target = null
  }

  /** In place. */
  process(block: Float32Array): void {
    this.pitch.push(block)
    const { hz } = this.pitch
    const wanted = hz > 0 ? this.centsToNote(1_200 * Math.log2(hz / 440)) : 0
    if (hz === 0) this.target = null
    const drawSeconds = Math.max(LEAST_DRAW_SECONDS, this.tuning.speedMilliseconds / 1_000)
    const ease = Math.exp(-block.length / (drawSeconds * SAMPLE_RATE_HZ))
    this.cents = wanted + ease * (this.cents - wanted)
    const rate = 2 ** (this.cents / 1_200)
    const period = hz > 0 ? SAMPLE_RATE_HZ / hz : 0
    for (let i = 0; i < block.length; i++) {
      this.ring[this.writeAt % RING_FRAMES] = block[i]
      block[i] = this.read()
      this.writeAt++
      this.delay += 1 - rate
      this.oldDelay += 1 - rate
      if (this.spliceLeft > 0) this.spliceLeft--
      else this.keepInReach(period)
    }
  }

  private keepInReach(period: number): void {
    // Without a period any place is as good as another: a quiet drift back would be heard less than a leap, and none is needed at rate 1.
    const leap = period > 0 ? period : SPLICE_FRAMES * 2
    if (this.delay < LEAST_DELAY_FRAMES) this.splice(this.delay + leap)
    else if (this.delay > LEAST_DELAY_FRAMES + leap + SPLICE_FRAMES / 4) this.splice(this.delay - leap)
  }

  private splice(delay: number): void {
    this.oldDelay = this.delay
    this.delay = delay
    this.spliceLeft = SPLICE_FRAMES
  }

  private read(): number {
    const now = this.at(this.delay)
    if (this.spliceLeft === 0) return now
    const old = this.spliceLeft / SPLICE_FRAMES
    return now + old * (this.at(this.oldDelay) - now)
  }

  /** The voice some frames ago, between samples by a cubic. @see J. Dattorro, Effect design part 2, J. Audio Eng. Soc. 45 (1997). */
  private at(delay: number): number {
    const whole = Math.floor(delay)
    const x = 1 - (delay - whole)
    const base = this.writeAt - whole - 1
    // Read one by one: this runs for every sample in a worklet, where nothing is to be allocated.
    const { ring } = this
    const a = ring[(base - 1 + RING_FRAMES) % RING_FRAMES]
    const b = ring[(base + RING_FRAMES) % RING_FRAMES]
    const c = ring[(base + 1 + RING_FRAMES) % RING_FRAMES]
    const d = ring[(base + 2 + RING_FRAMES) % RING_FRAMES]
    return b + 0.5 * x * (c - a + x * (2 * a - 5 * b + 4 * c - d + x * (3 * (b - c) + d - a)))
  }

  /** From a pitch to the note it is drawn to; 0 beyond reach. */
  private centsToNote(cents: number): number {
    const { rungs, amount, toleranceCents } = this.tuning
    const above = cents - C_CENTS
    const octave = Math.floor(above / 1_200)
    let best = Infinity
    for (const o of [octave - 1, octave, octave + 1]) {
      for (const rung of rungs) {
        const note = 1_200 * o + rung
        // The note that is held is given up late, so that vibrato at its edge does not flutter.
        const distance = Math.abs(note - above) - (note === this.target ? HOLD_CENTS : 0)
        if (distance < Math.abs(best - above) - (best === this.target ? HOLD_CENTS : 0)) best = note
      }
    }
    this.target = best
    const bend = best - above
    return Math.abs(bend) > MOST_CENTS || Math.abs(bend) <= toleranceCents ? 0 : amount * bend
  }
}
