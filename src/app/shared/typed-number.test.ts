import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { readTypedNumber, refusalText } from './typed-number'

const MS = { min: 0, max: 400, digits: 1, unit: 'ms' }
const DB = { min: -60, max: 12, digits: 1, unit: 'dB' }
const SECONDS = { min: -10, max: 3_600, digits: 3, unit: 's' }
const BAR = { min: 1, max: 400, digits: 0 }

describe('what people type', () => {
  test.each([
    ['23', MS, 23],
    [' 23.5 ', MS, 23.5],
    ['23,5', MS, 23.5],
    ['.5', MS, 0.5],
    ['5.', MS, 5],
    ['23 ms', MS, 23],
    ['23ms', MS, 23],
    ['0.0235 s', MS, 23.5],
    ['0,02s', MS, 20],
    ['-9', DB, -9],
    ['−9,5', DB, -9.5],
    ['–9 dB', DB, -9],
    ['- 9 dBFS', DB, -9],
    ['+3', DB, 3],
    ['1:23', SECONDS, 83],
    ['1:02,5', SECONDS, 62.5],
    ['-0:05', SECONDS, -5],
    ['250 ms', SECONDS, 0.25],
    ['2 min', SECONDS, 120],
    ['1 200', SECONDS, 1_200],
    ["1'200", SECONDS, 1_200],
    ['bar 12', BAR, 12],
    ['９９', BAR, 99],
    ['50 %', { min: 0, max: 100, digits: 0, unit: '%' }, 50],
    ['120 BPM', { min: 30, max: 300, digits: 3, unit: 'bpm' }, 120],
    ['6.5 kHz', { min: 500, max: 20_000, digits: 0, unit: 'Hz' }, 6_500],
  ])('“%s” is taken', (text, range, value) => expect(readTypedNumber(text, range)).toEqual({ ok: true, value }))

  test.each([
    ['', MS, 'no-number'],
    ['   ', MS, 'no-number'],
    ['abc', MS, 'no-number'],
    ['-', DB, 'no-number'],
    ['1e9', MS, 'no-number'],
    ['12 Hz', MS, 'no-number'],
    ['1:23', DB, 'no-number'],
    ['1:75', SECONDS, 'no-number'],
    ['1,2,3', MS, 'no-number'],
    ['12 12', MS, 'no-number'],
    ['Infinity', MS, 'no-number'],
    ['5.5', BAR, 'not-whole'],
    ['0', BAR, 'below'],
    ['-70', DB, 'below'],
    ['999', BAR, 'above'],
    ['1 s', MS, 'above'],
  ] as const)('“%s” is not, and it is known why', (text, range, why) => expect(readTypedNumber(text, range)).toEqual({ ok: false, why }))

  test('whatever a field shows can be typed again', () => {
    fc.assert(
      fc.property(fc.double({ min: -60, max: 12, noNaN: true }), value => {
        const shown = String(Math.round(value * 10) / 10)
        const read = readTypedNumber(shown, DB)
        return read.ok && read.value === Number(shown)
      }),
    )
  })

  test('nothing that is typed is taken outside the range or as no number', () => {
    fc.assert(
      fc.property(fc.string(), text => {
        const read = readTypedNumber(text, DB)
        return !read.ok || (read.value >= -60 && read.value <= 12)
      }),
    )
  })
})

test.each([
  ['abc', 'no-number', '“abc” cannot be read as a number of ms. It stays at 23 ms.'],
  ['', 'no-number', 'Type a number. It stays at 23 ms.'],
  ['900', 'above', 'At most 400 ms. It stays at 23 ms.'],
  ['-1', 'below', 'At least 0 ms. It stays at 23 ms.'],
] as const)('“%s” is answered in words', (typed, why, text) => expect(refusalText(typed, why, MS, '23')).toBe(text))
