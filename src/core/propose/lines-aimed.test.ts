import { describe, expect, test } from '@jest/globals'
import type { LineId } from '../song/schema'
import { aimedLoudness, restingLines } from './lines-aimed'

const beatOf = (lufs: readonly number[]) => lufs.map((value, i) => ({ lineId: `line ${i}` as LineId, lufs: value }))
const aims = (lufs: readonly number[]) => [...aimedLoudness(beatOf(lufs), 3).values()]

describe('what a voice is brought to, line by line', () => {
  test('is so much over the beat, louder and softer with it', () => expect(aims([-20, -22, -18, -21, -19])).toEqual([-17, -19, -15, -18, -16]))

  test('stays within four decibels of the usual where the beat rests or is silent, and says in how many lines', () => {
    expect(aims([-20, -20, -32, -20, -Infinity])).toEqual([-17, -17, -21, -17, -21])
    expect(restingLines(beatOf([-20, -20, -32, -20, -Infinity]))).toBe(2)
    expect(restingLines(beatOf([-20, -24, -16]))).toBe(0)
  })

  test('is not known over a beat that is silent throughout', () => {
    expect(aims([-Infinity, -Infinity])).toEqual([])
    expect(restingLines(beatOf([-Infinity]))).toBe(0)
  })
})
