import { expect, test } from '@jest/globals'
import { gaussian, makeRandom } from '../audio/random'
import type { BarView } from './bar-views'
import { findStarts } from './section-starts'

const COLUMNS = [20, 5, 12, 12, 80]

/** Bars as five views of their sound, all alike but for small differences, with something laid over some of them. */
function bars(count: number, over: (view: number, column: number, bar: number) => number, seed = 3): BarView[] {
  const random = makeRandom(seed)
  return COLUMNS.map((columns, view) =>
    Array.from({ length: count }, (_, bar) => Float64Array.from({ length: columns }, (_, column) => 0.2 * gaussian(random) + over(view, column, bar))),
  )
}

test.each([1, 2, 3, 4])('a melody that comes and goes is a change, though it moves a few sub-bands by little (%i)', seed => {
  const isSung = (bar: number) => bar >= 8 && bar < 16
  const views = bars(24, (view, column, bar) => (view === 0 && column >= 12 && column < 18 && isSung(bar) ? 0.8 : 0), seed)
  expect(findStarts(views)).toEqual([0, 8, 16])
})

test.each([1, 2, 3, 4])('a last chord that rings out, far from all before it, hides no change among them (%i)', seed => {
  const views = bars(25, (view, column, bar) => (bar === 24 ? -4 : view === 0 && column < 8 && bar >= 12 ? 0.9 : 0), seed)
  const starts = findStarts(views)
  expect(starts.slice(0, 2)).toEqual([0, 12])
  // The bar before it may count as the beginning of the end.
  expect(starts.slice(2).every(start => start >= 23)).toBe(true)
})

test('sections of six bars are found where the sound says so', () => {
  const views = bars(18, (view, _, bar) => (view < 2 && bar >= 6 && bar < 12 ? 2 : 0))
  expect(findStarts(views)).toEqual([0, 6, 12])
})

test('a riser is one section: what grows evenly does not begin anew half way', () => {
  const views = bars(24, (view, column, bar) => (view === 0 && column > 10 ? (bar < 8 ? bar / 4 : 4) : 0))
  expect(findStarts(views)).toEqual([0, 8])
})

test('chords alone make no section: notes move all along', () => {
  const views = bars(24, (view, column, bar) => (view === 2 && column === [0, 5, 7, 9][bar % 4] ? 3 : 0))
  expect(findStarts(views)).toEqual([0])
})
