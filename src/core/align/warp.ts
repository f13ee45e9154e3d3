/** Dynamic time warping: which moment of one voice is which of another. */
import { HOPS_A_SECOND, type Features } from './features'

/** Two moments that are one lie no further apart than this. */
export const MOST_APART_SECONDS = 0.4
/** The path is found at every second hop, 10 ms. */
const STRIDE = 2
/** A step that is not straight ahead costs so much more of what is usual between two moments. */
const BEND_COST = 0.08

/**
 * @returns for every `STRIDE`th hop of the lead, the hop of the other; rising by half a hop to two a hop.
 * @see H. Sakoe and S. Chiba, Dynamic programming algorithm optimization for spoken word recognition, IEEE Trans. ASSP 26 (1978), for the
 * steps and the band.
 */
export function warpPath(lead: Features, other: Features): { stride: number; hops: Float32Array } {
  const rows = Math.ceil(lead.hops / STRIDE)
  const columns = Math.ceil(other.hops / STRIDE)
  const reach = Math.round((MOST_APART_SECONDS * HOPS_A_SECOND) / STRIDE)
  const width = 2 * reach + 1
  const local = new Float32Array(rows * width).fill(Infinity)
  let sum = 0
  let count = 0
  for (let i = 0; i < rows; i++) {
    for (let k = 0; k < width; k++) {
      const j = i + k - reach
      if (j < 0 || j >= columns) continue
      const distance = apart(lead, other, i * STRIDE, j * STRIDE)
      local[i * width + k] = distance
      sum += distance
      count++
    }
  }
  const bend = (BEND_COST * sum) / Math.max(1, count)
  // Steps: one ahead in both; two ahead in one and one in the other, in which both moments passed count.
  const cost = new Float64Array(rows * width).fill(Infinity)
  const step = new Uint8Array(rows * width)
  const at = (i: number, k: number) => (i < 0 || k < 0 || k >= width ? Infinity : cost[i * width + k])
  const here = (i: number, k: number) => (i < 0 || k < 0 || k >= width ? Infinity : local[i * width + k])
  for (let i = 0; i < rows; i++) {
    for (let k = 0; k < width; k++) {
      const d = local[i * width + k]
      if (d === Infinity) continue
      const j = i + k - reach
      if (i < 2 || j < 2) {
        cost[i * width + k] = d
        continue
      }
      const straight = at(i - 1, k) + d
      // The lead goes two ahead, the other one: k grows back by one.
      const slow = at(i - 2, k + 1) + here(i - 1, k) * 0.5 + here(i - 1, k + 1) * 0.5 + d + bend
      const fast = at(i - 1, k - 1) + 0.5 * here(i, k - 1) + 0.5 * d + bend
      const best = Math.min(straight, slow, fast)
      cost[i * width + k] = best
      step[i * width + k] = best === straight ? 0 : best === slow ? 1 : 2
    }
  }
  return { stride: STRIDE, hops: traceBack(rows, columns, reach, cost, step) }
}

function traceBack(rows: number, columns: number, reach: number, cost: Float64Array, step: Uint8Array): Float32Array {
  const width = 2 * reach + 1
  const path = new Float32Array(rows)
  let i = rows - 1
  let k = reach
  // Where the other is shorter, the path ends with it.
  while (i > 0 && Math.min(...cost.subarray(i * width, (i + 1) * width)) === Infinity) i--
  for (let c = 0; c < width; c++) if (cost[i * width + c] < cost[i * width + k]) k = c
  for (let row = rows - 1; row > i; row--) path[row] = (row + k - reach) * STRIDE
  while (i >= 0) {
    path[i] = Math.min(columns - 1, Math.max(0, i + k - reach)) * STRIDE
    const taken = i < 2 || i + k - reach < 2 ? 0 : step[i * width + k]
    if (taken === 1) {
      path[i - 1] = path[i] - STRIDE / 2
      i -= 2
      k += 1
    } else {
      i -= 1
      if (taken === 2) k -= 1
    }
  }
  return path
}

/** Mean square of what two moments differ in. */
export function apart(a: Features, b: Features, hopA: number, hopB: number): number {
  const { dims } = a
  const [from, to] = [hopA * dims, hopB * dims]
  let sum = 0
  for (let d = 0; d < dims; d++) {
    const difference = a.values[from + d] - b.values[to + d]
    sum += difference * difference
  }
  return sum / dims
}
