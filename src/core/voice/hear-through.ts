/** A take at half its rate, as it is and as it is heard through its room: its steady noise and hum taken off where they would hide what is soft. */
import { powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { halveRate } from '../audio/halve-rate'
import { quantile } from '../audio/statistics'
import { withoutNoise } from './denoise'
import { HOP_SECONDS } from './hop'
import { framePowers, gateOf } from './level'
import { runsOf } from './runs'

export const HALF_RATE_HZ = SAMPLE_RATE_HZ / 2

export interface HeardThrough {
  /** At half the rate. */
  raw: Mono
  /** The same object as `raw` where there was nothing to take off. */
  clean: Mono
  /** The power of `clean` below which nothing is voice; 0 where nothing was taken off. */
  leastPower: number
  /** How much of what is soft the noise hides: 0 where nothing was taken off, 1 where only what is sung out stands above it. */
  hidden: number
  /** What was taken off is noise and hum that stay as they are: no music leaks, whose beats would stand out of it. */
  isSteadyRoom: boolean
}

/** Below this against the loud voice, noise hides nothing. */
const NOISE_BELOW_LOUD = 10 ** -4.5
/** Noise that is loud and yet this steady is a room's: the soft moments of a voice that never rests waver far more. */
const STEADY_BELOW_LOUD = 10 ** -0.8
const LEAST_OF_STEADY = 0.6
/** A rest is no louder than this against the room. */
const QUIET_ABOVE_NOISE = 2
/** What is left of noise lies below this against what it was, a voice above. */
const LEFT_OF_NOISE = 10 ** -0.9

/** @param voice One channel at 48 kHz. */
export function hearThrough(voice: Mono): HeardThrough {
  const raw = halveRate(voice)
  const power = framePowers(raw, HALF_RATE_HZ)
  const { noisePower, quietFrames } = gateOf(power)
  const loudPower = quantile(power, 0.95)
  const steady = isSteady(power)
  const hasRests = quietFrames.length > 0 || (steady && noisePower < STEADY_BELOW_LOUD * loudPower)
  if (!hasRests || noisePower < NOISE_BELOW_LOUD * loudPower) return { raw, clean: raw, leastPower: 0, hidden: 0, isSteadyRoom: false }
  const hop = HOP_SECONDS * HALF_RATE_HZ
  const quiet = runsOf(power.length, frame => power[frame] > 0 && power[frame] < QUIET_ABOVE_NOISE * noisePower)
  const clean = withoutNoise(
    raw,
    quiet.map(({ from, to }) => ({ from: from * hop, to: to * hop })),
  )
  return { raw, clean, leastPower: LEFT_OF_NOISE * noisePower, hidden: hiddenBy(loudPower / noisePower), isSteadyRoom: steady }
}

function isSteady(power: Float32Array): boolean {
  const sounding = power.filter(value => value > 1e-12)
  return quantile(sounding, 0.02) > LEAST_OF_STEADY * quantile(sounding, 0.1)
}

/** The loud voice above the noise, in decibels, where nothing is hidden of it, and where most is. */
const [NOTHING_HIDDEN_DECIBELS, MOST_HIDDEN_DECIBELS] = [36, 16]

function hiddenBy(aboveNoise: number): number {
  return Math.min(1, Math.max(0, (NOTHING_HIDDEN_DECIBELS - powerToDecibels(aboveNoise)) / (NOTHING_HIDDEN_DECIBELS - MOST_HIDDEN_DECIBELS)))
}
