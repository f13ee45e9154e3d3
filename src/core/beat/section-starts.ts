/** Where the sections of a beat begin: the bar lines that cut it into stretches each of which sounds alike throughout, or grows evenly. */
import { median } from '../audio/statistics'
import { distance, meanRow, type BarView } from './bar-views'

// All the numbers below were set on 87 composed beats.
/** How far back and ahead of a bar line the sound is compared. */
const REACH_BARS = 2
/** How much levels, strokes and notes count in it: notes move all along, and say less than what plays them. */
const CHANGE_WEIGHTS = [1, 1, 0.3]
/** What a change of one is worth, and what a start costs. */
const CHANGE_WORTH = 3.5
const START_COST = 2
const MAX_BARS = 32
const MOST_ENDING_BARS = 3
/** How much the unlikeness of bars counts by levels, strokes, notes, bass and where strokes fall. Notes follow their chords whatever plays them. */
const UNLIKE_WEIGHTS = [1, 0.5, 0, 0, 0.3]
/** Bars differ by as much without saying anything, in usual deviations. */
const UNLIKE_FLOOR = 1
/** How far from the median a bar counts: a last chord that rings out must not make all that came before it look alike. */
const MOST_DEVIATIONS = 2
/** What it costs to explain a stretch by growth, as of a riser or a fade, and from how many bars on. */
const GROWTH_COST = 1
const LEAST_GROWTH_BARS = 4

/** The first bars, from 0, in order; [0] is 0. Dynamic programming: least unlikeness within, most change between, usual lengths. */
export function findStarts(views: readonly BarView[]): number[] {
  const bars = views[0].length
  const change = changes(views)
  const unlike = measureUnlikeness(views)
  const cost = new Float64Array(bars + 1).fill(Infinity)
  const from = new Int32Array(bars + 1)
  cost[0] = 0
  for (let end = 1; end <= bars; end++) {
    for (let start = Math.max(0, end - MAX_BARS); start < end; start++) {
      const isAtEdge = end === bars || start === 0
      const begin = start > 0 ? START_COST - CHANGE_WORTH * change[start] : 0
      const total = cost[start] + unlike[start][end - start] + begin + lengthCost(end - start) * (isAtEdge ? 0.5 : 1)
      if (total < cost[end]) [cost[end], from[end]] = [total, start]
    }
  }
  const starts: number[] = []
  for (let at = bars; at > 0; at = from[at]) starts.unshift(from[at])
  // Last bars of ringing out are one ending.
  while (starts.length > 2 && bars - starts[starts.length - 2] <= MOST_ENDING_BARS) starts.pop()
  return starts
}

/** How much the sound changes at each bar line. Index 0 is the start of the first bar. */
function changes(views: readonly BarView[]): number[] {
  return views[0].map((_, bar) => {
    if (bar === 0) return 0
    let square = 0
    let columns = 0
    CHANGE_WEIGHTS.forEach((weight, v) => {
      const change = distance(meanRow(views[v].slice(Math.max(0, bar - REACH_BARS), bar)), meanRow(views[v].slice(bar, bar + REACH_BARS)))
      square += (weight * change) ** 2 * views[v][0].length
      columns += views[v][0].length
    })
    return Math.sqrt(square / columns)
  })
}

function lengthCost(bars: number): number {
  if (bars % 8 === 0) return 0
  if (bars % 4 === 0) return 0.75
  if (bars === 1) return 5
  return bars % 2 === 0 ? 1.6 : 3
}

/**
 * What it takes to describe the bars of a stretch by their mean (or by a line, where that is shorter) and what is left: the length times the
 * mean log variance, as in change-point detection by description length.
 * @returns By first bar, then by length up to MAX_BARS.
 * @see R. Killick, P. Fearnhead, I. Eckley, Optimal Detection of Changepoints With a Linear Computational Cost, JASA 107 (2012), section 2.
 */
function measureUnlikeness(views: readonly BarView[]): Float64Array[] {
  const bars = views[0].length
  const sums = views.flatMap((view, v) => (UNLIKE_WEIGHTS[v] > 0 ? [{ weight: UNLIKE_WEIGHTS[v] / view[0].length, columns: columnSums(view) }] : []))
  return Array.from({ length: bars }, (_, start) => {
    const most = Math.min(MAX_BARS, bars - start)
    const unlike = new Float64Array(most + 1)
    for (let length = 1; length <= most; length++) {
      let even = 0
      let growing = 0
      for (const { weight, columns } of sums)
        for (const column of columns) {
          const [variance, rest] = variances(column, start, length)
          even += weight * Math.log(variance + UNLIKE_FLOOR ** 2)
          growing += weight * Math.log(rest + UNLIKE_FLOOR ** 2)
        }
      unlike[length] = length * even
      if (length >= LEAST_GROWTH_BARS) unlike[length] = Math.min(unlike[length], length * growing + GROWTH_COST)
    }
    return unlike
  })
}

/** Sums of a column up to each bar: of its values, their squares, and their products with the bar's number. */
type ColumnSums = readonly [values: Float64Array, squares: Float64Array, products: Float64Array]

function columnSums(view: BarView): ColumnSums[] {
  return Array.from(view[0], (_, column): ColumnSums => {
    const values = steadied(view.map(row => row[column]))
    const running = (term: (value: number, bar: number) => number) => {
      const sums = new Float64Array(values.length + 1)
      values.forEach((value, bar) => (sums[bar + 1] = sums[bar] + term(value, bar)))
      return sums
    }
    return [running(value => value), running(value => value ** 2), running((value, bar) => value * bar)]
  })
}

/** In usual deviations from the median: where seven bars of ten lie, so that a few far ones count for no more than that. */
function steadied(values: readonly number[]): number[] {
  const middle = median(values)
  const apart = values.map(value => Math.abs(value - middle)).sort((a, b) => a - b)
  const usual = apart[Math.round(0.7 * (apart.length - 1))] + 0.15
  return values.map(value => Math.max(-MOST_DEVIATIONS, Math.min(MOST_DEVIATIONS, (value - middle) / usual)))
}

/** Around the mean, and around the line of least squares. */
function variances([values, squares, products]: ColumnSums, start: number, length: number): [aroundMean: number, aroundLine: number] {
  const end = start + length
  const mean = (values[end] - values[start]) / length
  const variance = Math.max(0, (squares[end] - squares[start]) / length - mean ** 2)
  if (length === 1) return [variance, variance]
  const covariance = (products[end] - products[start]) / length - ((start + end - 1) / 2) * mean
  return [variance, Math.max(0, variance - covariance ** 2 / ((length ** 2 - 1) / 12))]
}
