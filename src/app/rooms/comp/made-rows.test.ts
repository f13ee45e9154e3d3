import { expect, test } from '@jest/globals'
import fc from 'fast-check'
import { AHEAD_ROWS, withOneMore, withView, type MadeRows } from './made-rows'

const list = (length: number) => Array.from({ length }, (_, i) => i)
const none: MadeRows = { list: [], view: { from: 0, to: 0 }, seen: { from: 0, to: 0 }, made: { from: 0, to: 0 } }
const rested = (rows: MadeRows): MadeRows => {
  const next = withOneMore(rows)
  return next === rows ? rows : rested(next)
}

test('while nothing else is to be done, rows are made on both sides of the view, the nearest first, up to so many', () => {
  const rows = withView(none, list(500), { from: 100, to: 106 })
  expect(rows.made).toEqual({ from: 100, to: 106 })
  const few = withOneMore(withOneMore(withOneMore(rows)))
  expect(few.made).toEqual({ from: 99, to: 108 })
  expect(rested(rows).made).toEqual({ from: 100 - AHEAD_ROWS, to: 106 + AHEAD_ROWS })
})

test('another list keeps what is made of it and forgets what was seen; a leap starts anew', () => {
  const first = rested(withView(withView(none, list(60), { from: 0, to: 6 }), list(60), { from: 20, to: 26 }))
  const sixty = list(60)
  const scrolled = withView(withView(withView(none, sixty, { from: 0, to: 6 }), sixty, { from: 4, to: 10 }), sixty, { from: 9, to: 15 })
  expect(scrolled.seen).toEqual({ from: 0, to: 15 })
  expect(withView(scrolled, sixty, { from: 9, to: 15 })).toBe(scrolled)
  expect(withView(scrolled, sixty, { from: 40, to: 46 })).toMatchObject({ seen: { from: 40, to: 46 }, made: { from: 40, to: 46 } })
  expect(withView(first, list(30), { from: 20, to: 26 })).toMatchObject({ seen: { from: 20, to: 26 }, made: { from: 0, to: 30 } })
})

test('what is in view is always made, and nothing beyond the list', () => {
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.nat(200), fc.nat(12), fc.nat(40)), { maxLength: 12 }), fc.integer({ min: 1, max: 200 }), (moves, length) => {
      const rows = list(length)
      let state = none
      for (const [at, height, idle] of moves) {
        const from = Math.min(at, length - 1)
        const view = { from, to: Math.min(length, from + 1 + height) }
        state = withView(state, rows, view)
        for (let i = 0; i < idle; i++) state = withOneMore(state)
        expect(state.made.from).toBeLessThanOrEqual(view.from)
        expect(state.made.to).toBeGreaterThanOrEqual(view.to)
        expect(state.made.from).toBeGreaterThanOrEqual(Math.max(0, view.from - AHEAD_ROWS))
        expect(state.made.to).toBeLessThanOrEqual(Math.min(length, view.to + AHEAD_ROWS))
      }
    }),
  )
})
