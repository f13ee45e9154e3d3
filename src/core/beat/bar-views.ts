/** Each bar of a beat as five rows of numbers, each for one side of its sound. */
import { FEATURE_RATE_HZ, type BeatFeatures } from './features'

/** One row a bar. */
export type BarView = Float64Array[]

/** Parts of a bar whose strokes are told apart. */
const STROKES = 16

/**
 * Levels by sub-band, strokes by band, pitch classes above the bass, those of the bass, and where in the bar the strokes fall.
 * @param barSeconds When each bar begins, and where the last one ends.
 */
export function viewBars({ levels, onsets, pitches }: BeatFeatures, barSeconds: readonly number[]): BarView[] {
  const perBar = (rateHz: number, columns: ((i: number) => number)[], parts = 1): BarView =>
    barSeconds.slice(0, -1).map((start, bar) => {
      const length = (barSeconds[bar + 1] - start) / parts
      // A stroke belongs to the part that it begins, though it may come a little early.
      const early = parts > 1 ? 0.25 : 0
      return Float64Array.from(
        columns.flatMap(read =>
          Array.from({ length: parts }, (_, part) => meanOver(start + (part - early) * length, start + (part + 1 - early) * length, rateHz, read)),
        ),
      )
    })
  const classes = (values: Float32Array) =>
    perBar(
      1 / pitches.hopSeconds,
      Array.from({ length: 12 }, (_, c) => (i: number) => values[i * 12 + c] ?? 0),
    )
  const strokes = onsets.map(onset => (i: number) => onset[i] ?? 0)
  return [
    standardised(
      perBar(
        FEATURE_RATE_HZ,
        levels.map(level => i => level[i] ?? 0),
      ),
      0.1,
    ),
    standardised(perBar(FEATURE_RATE_HZ, strokes), 0.1),
    shares(classes(pitches.treble)),
    shares(classes(pitches.bass)),
    standardised(perBar(FEATURE_RATE_HZ, strokes, STROKES), 0.3),
  ]
}

function meanOver(from: number, to: number, rateHz: number, read: (i: number) => number): number {
  const first = Math.max(0, Math.round(from * rateHz))
  const end = Math.max(first + 1, Math.round(to * rateHz))
  let total = 0
  for (let i = first; i < end; i++) total += read(i)
  return total / (end - first)
}

/** Each column with mean 0 and deviation 1; what hardly moves over the whole beat says nothing, however it would look when stretched. */
function standardised(view: BarView, floor: number): BarView {
  const mean = meanRow(view)
  const deviation = mean.map((value, i) => Math.sqrt(view.reduce((total, row) => total + (row[i] - value) ** 2, 0) / view.length))
  return view.map(row => row.map((value, i) => (value - mean[i]) / (deviation[i] + floor * Math.abs(mean[i]) + 1e-3)))
}

/** Each row as shares of its length, so that loud bars count no more than soft ones; near silence all are small. */
function shares(view: BarView): BarView {
  const lengths = view.map(row => Math.hypot(...row))
  const quiet = 0.05 * Math.max(...lengths) + 1e-6
  return view.map((row, bar) => row.map(value => (4 * value) / (lengths[bar] + quiet)))
}

export function meanRow(view: BarView): Float64Array {
  const mean = new Float64Array(view[0].length)
  for (const row of view) for (let i = 0; i < mean.length; i++) mean[i] += row[i] / view.length
  return mean
}

/** Root mean square of the difference. */
export function distance(a: Float64Array, b: Float64Array): number {
  let square = 0
  for (let i = 0; i < a.length; i++) square += (a[i] - b[i]) ** 2
  return Math.sqrt(square / a.length)
}
