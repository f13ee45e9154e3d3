import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { decibelsBetween } from '../audio/signals.test-kit'
import { addClickInto } from './click'
import {
  barAtFrame,
  beatAtFrame,
  formatMeter,
  formatPosition,
  frameOfBar,
  frameOfBeat,
  withBarOneAt,
  withBarOneOnBeat,
  withDoubledTempo,
  withHalvedTempo,
  withTempo,
  type Grid,
} from './grid'
import { tempoFromTaps } from './tap'

const steady: Grid = { tempoBpm: 92.6, barOneFrame: 17_904, beatsPerBar: 4, beatUnit: 'quarter', map: null }
/** Beats that slow down, bar one at the third of them. */
const slowing: Grid = {
  tempoBpm: 110,
  barOneFrame: 50_000,
  beatsPerBar: 3,
  beatUnit: 'dotted-quarter',
  map: { firstBeat: -2, frames: [2_000, 25_000, 50_000, 77_000, 106_000, 137_000] },
}

describe('grid', () => {
  test('bar one begins at its frame, and positions read as bar.beat.sixteenth', () => {
    expect(frameOfBar(steady, 1)).toBe(17_904)
    expect(formatPosition(steady, frameOfBeat(steady, 4 * 20 + 1.5))).toBe('21.2.3')
    expect(formatPosition(steady, 0)).toMatch(/^0\./)
    expect([formatMeter(steady), formatMeter(slowing)]).toEqual(['4/4', '9/8'])
  })

  test('every bar is found again at its own first frame, at any tempo', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 30, max: 300, noNaN: true }),
        fc.integer({ min: -20, max: 400 }),
        fc.integer({ min: 1, max: 12 }),
        (tempoBpm, bar, beatsPerBar) => {
          const any: Grid = { ...steady, tempoBpm, beatsPerBar }
          expect(barAtFrame(any, frameOfBar(any, bar))).toBe(bar)
          expect(Math.abs(beatAtFrame(any, frameOfBar(any, bar)) - (bar - 1) * beatsPerBar)).toBeLessThan(0.01)
        },
      ),
    )
  })

  test('a drifting beat is followed beat by beat, and goes on as it was beyond its ends', () => {
    expect([-2, 0, 1, 3].map(beat => frameOfBeat(slowing, beat))).toEqual([2_000, 50_000, 77_000, 137_000])
    expect([frameOfBeat(slowing, 0.5), frameOfBeat(slowing, 4), frameOfBeat(slowing, -3)]).toEqual([63_500, 168_000, -21_000])
    fc.assert(fc.property(fc.double({ min: -50, max: 50, noNaN: true }), beat => expect(beatAtFrame(slowing, frameOfBeat(slowing, beat))).toBeCloseTo(beat, 3)))
  })

  test('every correction keeps what it does not name', () => {
    for (const grid of [steady, slowing]) {
      const moved = withBarOneAt(grid, grid.barOneFrame + 480)
      expect([-3, 0, 2.5].map(beat => frameOfBeat(moved, beat) - frameOfBeat(grid, beat))).toEqual([480, 480, 480])
      const recounted = withBarOneOnBeat(grid, 1)
      // Bar one lies on a whole frame, so beats counted from another one may round the other way.
      const apart = (a: Grid, beatA: number, beatB: number) => Math.abs(frameOfBeat(a, beatA) - frameOfBeat(grid, beatB))
      for (const beat of [-2, 0, 5]) expect(apart(recounted, beat, beat + 1)).toBeLessThanOrEqual(1)
      for (const beat of [-2, 0, 2]) expect(apart(withDoubledTempo(grid), 2 * beat, beat)).toBeLessThanOrEqual(1)
      expect(apart(withHalvedTempo(grid), 1, 2)).toBeLessThanOrEqual(1)
      expect(frameOfBeat(withTempo(grid, 120), 2)).toBe(grid.barOneFrame + 48_000)
    }
  })
})

test('what comes a moment before a bar nobody hears apart from it is counted as in it', () => {
  const grid: Grid = { ...steady, barOneFrame: 48 }
  expect([formatPosition(grid, 0), barAtFrame(grid, 0)]).toEqual(['1.1.1', 1])
  const later: Grid = { ...steady, barOneFrame: 960 }
  expect([formatPosition(later, 0), barAtFrame(later, 0)]).toEqual(['0.4.4', 0])
})

test('taps give a tempo from the fourth on, and one slip does not spoil it', () => {
  expect(tempoFromTaps([0, 0.5, 1])).toBeNull()
  const tapped = tempoFromTaps([0, 0.5, 1.0, 1.51, 2.0, 2.95, 3.45])
  expect(tapped!.tempoBpm).toBeGreaterThan(118)
  expect(tapped!.tempoBpm).toBeLessThan(122)
})

test('the click sounds on the beat, block by block as in one piece', () => {
  const grid: Grid = { ...steady, tempoBpm: 120, barOneFrame: 100 }
  const whole = [new Float32Array(48_000), new Float32Array(48_000)] as const
  addClickInto(whole[0], whole[1], grid, 0, 1)
  const blocks = new Float32Array(48_000)
  for (let at = 0; at < 48_000; at += 128) addClickInto(blocks.subarray(at, at + 128), new Float32Array(Math.min(128, 48_000 - at)), grid, at, 1)
  expect(decibelsBetween(blocks, whole[0])).toBe(-Infinity)
  expect(whole[0].findIndex(sample => sample !== 0)).toBeGreaterThanOrEqual(100)
  expect(Math.max(...whole[0].subarray(24_100, 24_400))).toBeGreaterThan(0.2)
})
