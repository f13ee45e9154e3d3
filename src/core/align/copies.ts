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

/** A sound's phases, piece by piece: for each bin a point on the unit circle; null where a piece is too soft to say anything. */
export type Phases = readonly (Float32Array | null)[]

const FIRST_BIN = Math.round((LOW_HZ * SIZE) / SAMPLE_RATE_HZ)
const BINS = Math.round((HIGH_HZ * SIZE) / SAMPLE_RATE_HZ) - FIRST_BIN + 1

/** Of a sound that is held against several. @param sound One channel at 48 kHz. */
export function phasesOf(sound: Mono): Phases {
  const fft = new FFT(SIZE)
  const block = new Float64Array(SIZE)
  const spectrum = new Float64Array(2 * SIZE)
  return Array.from({ length: Math.round(sound.length / PIECE_FRAMES) }, (_, piece) => {
    let power = 0
    block.fill(0)
    for (let i = 0; i < PIECE_FRAMES && piece * PIECE_FRAMES + i < sound.length; i++) {
      // A window without corners: two different pieces share their edges otherwise.
      block[i] = sound[piece * PIECE_FRAMES + i] * Math.sin((Math.PI * (i + 0.5)) / PIECE_FRAMES)
      power += block[i] * block[i]
    }
    if (power / PIECE_FRAMES < LEAST_POWER) return null
    fft.realTransform(spectrum, block)
    const phases = new Float32Array(2 * BINS)
    for (let bin = 0; bin < BINS; bin++) {
      const [re, im] = [spectrum[2 * (FIRST_BIN + bin)], spectrum[2 * (FIRST_BIN + bin) + 1]]
      const size = Math.hypot(re, im) + 1e-30
      phases[2 * bin] = re / size
      phases[2 * bin + 1] = im / size
    }
    return phases
  })
}

/**
 * Whether two sounds that begin together are copies: level, tone and polarity do not matter, for only the phases of the cross spectrum are looked at.
 * @returns null for different sounds, or where one is silent.
 * @see C. H. Knapp and G. C. Carter, The generalized correlation method for estimation of time delay, IEEE Trans. ASSP 24 (1976): the phase transform.
 */
export function findCopy(a: Phases, b: Phases): Copy | null {
  const cross = new Float64Array(2 * SIZE)
  let pieces = 0
  for (let piece = 0; piece < Math.min(a.length, b.length); piece++) {
    const [first, second] = [a[piece], b[piece]]
    if (!first || !second) continue
    pieces++
    addCross(cross, first, second)
  }
  if (pieces === 0) return null
  const lags = new Float64Array(2 * SIZE)
  new FFT(SIZE).inverseTransform(lags, cross)
  const most = Math.round(MOST_LAG_SECONDS * SAMPLE_RATE_HZ)
  let best = 0
  let at = 0
  for (let lag = -most; lag <= most; lag++) {
    const value = lags[2 * ((lag + SIZE) % SIZE)]
    if (Math.abs(value) <= Math.abs(best)) continue
    best = value
    at = lag
  }
  const likeness = (Math.abs(best) * SIZE) / (2 * BINS * pieces)
  return likeness >= LEAST_LIKENESS ? { lagSeconds: at / SAMPLE_RATE_HZ, likeness: Math.min(1, likeness), isInverted: best < 0 } : null
}

/** The second times the conjugate of the first: what is behind has the lag's phase. Both halves, as of a real signal. */
function addCross(cross: Float64Array, a: Float32Array, b: Float32Array): void {
  for (let bin = 0; bin < BINS; bin++) {
    const [x, y, u, v] = [a[2 * bin], a[2 * bin + 1], b[2 * bin], b[2 * bin + 1]]
    const [re, im] = [u * x + v * y, v * x - u * y]
    const [up, down] = [2 * (FIRST_BIN + bin), 2 * (SIZE - FIRST_BIN - bin)]
    cross[up] += re
    cross[up + 1] += im
    cross[down] += re
    cross[down + 1] -= im
  }
}
