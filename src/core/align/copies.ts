/** Sounds that are one and the same: played together they only get louder, or sound hollow. */
import FFT from 'fft.js'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'

export interface Copy {
  /** By so much the second lies behind the first. */
  lagSeconds: number
  /** How much of both goes by that lag, 0 to 1; of two takes of one line it is near 0. */
  likeness: number
  /** The wave of one is that of the other upside down. */
  isInverted: boolean
}

/** Copies are shifted by no more than this; what is later is heard as an echo. */
const MOST_LAG_SECONDS = 0.04
/** Pieces of 0.34 s, each with as much silence behind it. */
const PIECE_FRAMES = 16_384
const SIZE = 2 * PIECE_FRAMES
/** Where a voice is. */
const LOW_HZ = 120
const HIGH_HZ = 6_000
/** Softer than this in either, a piece says nothing: -60 dBFS. */
const LEAST_POWER = 1e-6
/** Two takes stay well below this, whatever is done to a copy it stays above. */
const LEAST_LIKENESS = 0.25

/**
 * Whether two sounds that begin together are copies: level, tone and polarity do not matter, for only the phases of the cross spectrum are looked at.
 * @param a One channel at 48 kHz; so is the other. @returns null for different sounds, or where one is silent.
 * @see C. H. Knapp and G. C. Carter, The generalized correlation method for estimation of time delay, IEEE Trans. ASSP 24 (1976): the phase transform.
 */
export function findCopy(a: Mono, b: Mono): Copy | null {
  const sum = crossPhases(a, b)
  if (!sum) return null
  const fft = new FFT(SIZE)
  const lags = new Float64Array(2 * SIZE)
  fft.inverseTransform(lags, sum.phases)
  const most = Math.round(MOST_LAG_SECONDS * SAMPLE_RATE_HZ)
  let best = 0
  let at = 0
  for (let lag = -most; lag <= most; lag++) {
    const value = lags[2 * ((lag + SIZE) % SIZE)]
    if (Math.abs(value) <= Math.abs(best)) continue
    best = value
    at = lag
  }
  const likeness = (Math.abs(best) * SIZE) / (2 * sum.bins * sum.pieces)
  return likeness >= LEAST_LIKENESS ? { lagSeconds: at / SAMPLE_RATE_HZ, likeness: Math.min(1, likeness), isInverted: best < 0 } : null
}

function crossPhases(a: Mono, b: Mono): { phases: Float64Array; bins: number; pieces: number } | null {
  const fft = new FFT(SIZE)
  const [block, ofA, ofB] = [new Float64Array(SIZE), new Float64Array(2 * SIZE), new Float64Array(2 * SIZE)]
  const phases = new Float64Array(2 * SIZE)
  const [from, to] = [LOW_HZ, HIGH_HZ].map(hz => Math.round((hz * SIZE) / SAMPLE_RATE_HZ))
  let pieces = 0
  for (let start = 0; start + PIECE_FRAMES / 2 <= Math.min(a.length, b.length); start += PIECE_FRAMES) {
    const powers = [
      [a, ofA],
      [b, ofB],
    ].map(([sound, spectrum]) => {
      let power = 0
      block.fill(0)
      for (let i = 0; i < PIECE_FRAMES && start + i < sound.length; i++) {
        // A window without corners: two different pieces share their edges otherwise.
        block[i] = sound[start + i] * Math.sin((Math.PI * (i + 0.5)) / PIECE_FRAMES)
        power += block[i] * block[i]
      }
      fft.realTransform(spectrum as Float64Array, block)
      return power / PIECE_FRAMES
    })
    if (Math.min(...powers) < LEAST_POWER) continue
    pieces++
    for (let bin = from; bin <= to; bin++) {
      const [x, y, u, v] = [ofA[2 * bin], ofA[2 * bin + 1], ofB[2 * bin], ofB[2 * bin + 1]]
      // b times the conjugate of a: what is behind has the lag's phase.
      const [re, im] = [u * x + v * y, v * x - u * y]
      const size = Math.hypot(re, im) + 1e-30
      phases[2 * bin] += re / size
      phases[2 * bin + 1] += im / size
    }
  }
  if (pieces === 0) return null
  for (let bin = from; bin <= to; bin++) {
    phases[2 * (SIZE - bin)] = phases[2 * bin]
    phases[2 * (SIZE - bin) + 1] = -phases[2 * bin + 1]
  }
  return { phases, bins: to - from + 1, pieces }
}
