import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { assignTakes, GOING_ON, OPEN, type LineToFill } from './assign'

type Line = LineToFill<string>

/** What an assignment is worth, counted by itself; -Infinity where a rule is broken. */
function worthOf(lines: readonly Line[], assigned: readonly (readonly (string | null)[])[]): number {
  let worth = 0
  lines.forEach(({ offers, held, section, alike = [] }, l) => {
    const takes = assigned[l]
    const sung = takes.filter(take => take !== null)
    if (new Set(sung).size < sung.length) worth = -Infinity
    if (alike.some(([a, b]) => sung.includes(a) && sung.includes(b))) worth = -Infinity
    takes.forEach((take, k) => {
      if (held[k] !== OPEN) worth += take === held[k] ? 0 : -Infinity
      else if (take !== null) worth += 10 + (offers.find(offer => offer.take === take)?.score ?? -Infinity)
      if (take !== null && l > 0 && lines[l - 1].section === section && assigned[l - 1][k] === take) worth += GOING_ON
    })
  })
  return worth
}

/** The most that any assignment is worth: every one is tried. */
function bruteForce(lines: readonly Line[]): number {
  const all = (l: number, done: (string | null)[][]): number => {
    if (l === lines.length) return worthOf(lines, done)
    const { offers, held } = lines[l]
    const choices = (k: number, row: (string | null)[]): number => {
      if (k === held.length) return all(l + 1, [...done, row])
      const options = held[k] === OPEN ? [null, ...offers.map(offer => offer.take)] : [held[k]]
      return Math.max(...options.map(take => choices(k + 1, [...row, take])))
    }
    return choices(0, [])
  }
  return all(0, [])
}

const takes = ['a', 'b', 'c', 'd']
const lineOf = (layers: number) =>
  fc
    .record({
      scores: fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 0, maxLength: 4 }),
      held: fc.array(fc.constantFrom<string | null | typeof OPEN>(OPEN, OPEN, OPEN, null, 'a', 'x'), { minLength: layers, maxLength: layers }),
      section: fc.constantFrom('verse', 'hook'),
      alike: fc.constantFrom<[string, string][]>([], [], [['a', 'b']]),
    })
    .filter(({ held }) => held.filter(take => take === 'a').length < 2 && held.filter(take => take === 'x').length < 2)
    .map(({ scores, ...line }): Line => ({ ...line, offers: scores.map((score, i) => ({ take: takes[i], score })) }))

describe('the assignment of takes to lines and layers', () => {
  test('is worth as much as the best of all assignments', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 2 }).chain(layers => fc.array(lineOf(layers), { minLength: 1, maxLength: 3 })),
        lines => {
          expect(worthOf(lines, assignTakes(lines))).toBeCloseTo(bruteForce(lines), 9)
        },
      ),
      { numRuns: 300 },
    )
  })

  test('goes on with one take along a section where that costs little, and not where another is far better', () => {
    const line = (...scores: number[]): Line => ({ section: 'hook', held: [OPEN], offers: scores.map((score, i) => ({ take: takes[i], score })) })
    expect(assignTakes([line(0.8, 0.5), line(0.7, 0.75), line(0.8, 0.5)])).toEqual([['a'], ['a'], ['a']])
    expect(assignTakes([line(0.8, 0.5), line(0.2, 0.9), line(0.8, 0.5)])).toEqual([['a'], ['b'], ['a']])
  })

  test('with forty takes for three layers it still ends, and never uses one twice in a line', () => {
    const offers = Array.from({ length: 40 }, (_, i) => ({ take: `take ${i}`, score: 0.5 + 0.001 * i }))
    const lines = Array.from({ length: 6 }, (): Line => ({ section: 'hook', held: [OPEN, OPEN, OPEN], offers }))
    for (const row of assignTakes(lines)) {
      expect(new Set(row).size).toBe(3)
      expect(row).not.toContain(null)
    }
  })

  test('nothing to fill is nothing', () => {
    expect(assignTakes([])).toEqual([])
    expect(assignTakes([{ section: 'hook', held: [OPEN], offers: [] }])).toEqual([[null]])
  })
})
