/** Samples that a click has spoilt, drawn anew from what lies on both sides. */
import type { Mono } from '../audio/frames'
import { levinson } from '../audio/levinson'

const ORDER = 40
const CONTEXT_FRAMES = 1_200
/** Noise added to what is predicted from, -60 dB: keeps it stable in near silence. */
const WHITENING = 1.000001
/** Longer stretches would be invented, not mended. */
export const MOST_CLICK_FRAMES = 480

/**
 * The samples that make the stretch least surprising to the autoregressive model of its surroundings.
 * @param voice One channel, changed in place from `startFrame` to `endFrame`.
 * @see A. J. E. M. Janssen, R. N. J. Veldhuis, L. B. Vries, Adaptive interpolation of discrete-time signals that can be modeled as
 *   autoregressive processes, IEEE Trans. ASSP 34 (1986).
 */
export function redrawClick(voice: Mono, startFrame: number, endFrame: number): void {
  const length = Math.min(endFrame, voice.length) - startFrame
  if (length <= 0 || length > MOST_CLICK_FRAMES) return
  const from = Math.max(0, startFrame - CONTEXT_FRAMES)
  const block = Float64Array.from(voice.subarray(from, Math.min(voice.length, endFrame + CONTEXT_FRAMES)))
  const at = startFrame - from
  bridge(block, at, length)
  // The model is read with a straight line over the click at first, then with what it drew.
  for (let round = 0; round < 2; round++) {
    const taps = predictorOf(block)
    if (!taps) break
    solveFor(block, at, length, taps)
  }
  for (let i = 0; i < length; i++) voice[startFrame + i] = block[at + i]
}

function bridge(block: Float64Array, at: number, length: number): void {
  const [before, after] = [block[at - 1] ?? 0, block[at + length] ?? 0]
  for (let i = 0; i < length; i++) block[at + i] = before + ((after - before) * (i + 1)) / (length + 1)
}

/** The prediction-error filter of a block; null of silence. */
function predictorOf(block: Float64Array): Float64Array | null {
  const order = Math.min(ORDER, block.length >> 2)
  const correlation = Float64Array.from({ length: order + 1 }, (_, lag) => {
    let sum = 0
    for (let i = lag; i < block.length; i++) sum += block[i] * block[i - lag]
    return sum
  })
  if (!(correlation[0] > 1e-12)) return null
  const taps = new Float64Array(order + 1)
  levinson(correlation, taps, new Float64Array(order + 1), correlation[0] * WHITENING)
  return taps
}

/** Least squares of the prediction error over all samples that the unknown ones touch: a banded symmetric system, by Cholesky. */
function solveFor(block: Float64Array, at: number, length: number, taps: Float64Array): void {
  const order = taps.length - 1
  // b[k] = sum of taps[n] taps[n + k]
  const b = Float64Array.from({ length: order + 1 }, (_, k) => {
    let sum = 0
    for (let n = 0; n + k <= order; n++) sum += taps[n] * taps[n + k]
    return sum
  })
  const right = new Float64Array(length)
  for (let i = 0; i < length; i++) {
    let sum = 0
    for (let k = -order; k <= order; k++) {
      const j = at + i + k
      if (k === 0 || (j >= at && j < at + length)) continue
      sum += b[Math.abs(k)] * (block[j] ?? 0)
    }
    right[i] = -sum
  }
  const factor = choleskyBand(b, length)
  // Forward, then back.
  for (let i = 0; i < length; i++) {
    for (let k = Math.max(0, i - order); k < i; k++) right[i] -= factor[i][i - k] * right[k]
    right[i] /= factor[i][0]
  }
  for (let i = length - 1; i >= 0; i--) {
    for (let k = i + 1; k <= Math.min(length - 1, i + order); k++) right[i] -= factor[k][k - i] * right[k]
    right[i] /= factor[i][0]
  }
  block.set(right, at)
}

/** Lower triangle of a banded Toeplitz matrix: `rows[i][d]` is the entry d places left of the diagonal. */
function choleskyBand(b: Float64Array, size: number): Float64Array[] {
  const order = b.length - 1
  const rows: Float64Array[] = []
  for (let i = 0; i < size; i++) {
    const row = new Float64Array(order + 1)
    for (let d = Math.min(order, i); d >= 0; d--) {
      let sum = b[d]
      const j = i - d
      for (let e = d + 1; e <= Math.min(order, i) && e - d <= Math.min(order, j); e++) sum -= row[e] * (d === 0 ? row[e] : rows[j][e - d])
      row[d] = d === 0 ? Math.sqrt(Math.max(sum, 1e-12)) : sum / rows[j][0]
    }
    rows.push(row)
  }
  return rows
}
