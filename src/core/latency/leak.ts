/** The beat that leaks from the headphones into the microphone tells how late a take truly lies. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { median } from '../audio/statistics'
import { correlateAt, peakBetween } from './correlate'

export interface LeakReading {
  /** How many frames later than assumed the leak lies: to be added to the round trip. */
  offFrames: number
  spreadFrames: number
  /** 0..1: share of the stretches that agree within 1 ms. */
  confidence: number
}

const STRETCH_FRAMES = SAMPLE_RATE_HZ
const REACH_FRAMES = 0.15 * SAMPLE_RATE_HZ
const AGREE_FRAMES = 48
const LEAST_AGREEING = 4
/** How far a true peak stands above the root mean square of the correlation round it. */
const LEAST_PROMINENCE = 6

/**
 * Correlates what was played with what was captured, whitened so that bass does not smear the peak, stretch by stretch.
 * @param played What sounded in the headphones, one channel at 48 kHz.
 * @param captured The take over the same frames of the song, moved by the round trip assumed. Same length.
 * @returns null if no leak can be made out for certain.
 * @see C. Knapp and G. Carter, The generalized correlation method for estimation of time delay, IEEE Trans. ASSP 24 (1976).
 */
export function readLeak(played: Mono, captured: Mono): LeakReading | null {
  const offs: number[] = []
  let tried = 0
  const whitePlayed = whiten(played)
  const whiteCaptured = whiten(captured)
  for (let start = REACH_FRAMES; start + STRETCH_FRAMES + REACH_FRAMES <= played.length; start += STRETCH_FRAMES) {
    const template = whitePlayed.subarray(start, start + STRETCH_FRAMES)
    if (!template.some(sample => Math.abs(sample) > 1e-4)) continue
    tried++
    const sums = correlateAt(whiteCaptured.subarray(start - REACH_FRAMES, start + STRETCH_FRAMES + REACH_FRAMES), template, 2 * REACH_FRAMES).map(Math.abs)
    let best = 0
    let energy = 0
    for (let lag = 0; lag < sums.length; lag++) {
      energy += sums[lag] ** 2
      if (sums[lag] > sums[best]) best = lag
    }
    if (sums[best] > LEAST_PROMINENCE * Math.sqrt(energy / sums.length)) offs.push(peakBetween(sums, best) - REACH_FRAMES)
  }
  if (offs.length < LEAST_AGREEING) return null
  const offFrames = median(offs)
  const agreeing = offs.filter(off => Math.abs(off - offFrames) <= AGREE_FRAMES)
  if (agreeing.length < LEAST_AGREEING || agreeing.length < 0.6 * offs.length) return null
  const spreadFrames = median(agreeing.map(off => Math.abs(off - offFrames)))
  return { offFrames: median(agreeing), spreadFrames, confidence: agreeing.length / tried }
}

/** Second differences: lifts the highs by 12 dB an octave, which flattens music's fall. */
function whiten(sound: Mono): Mono {
  const white = new Float32Array(sound.length)
  for (let i = 2; i < sound.length; i++) white[i] = sound[i] - 2 * sound[i - 1] + sound[i - 2]
  return white
}
