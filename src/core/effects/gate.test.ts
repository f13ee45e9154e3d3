import { describe, expect, test } from '@jest/globals'
import { Gate, HYSTERESIS_DECIBELS, USUAL_GATE } from './gate'
import { gainsThrough, steady } from './steady.test-kit'

const SETTINGS = { ...USUAL_GATE, thresholdDecibels: -40, rangeDecibels: 20, attackSeconds: 0.005, holdSeconds: 0.1, releaseSeconds: 0.15 }

const gainsOver = (levelsDbfs: readonly number[], settings = SETTINGS) => gainsThrough(new Gate(settings), levelsDbfs)

describe('the gate', () => {
  test.each([
    [-41, -20],
    [-60, -20],
    [-39, 0],
    [-5, 0],
  ])('a steady level of %d dBFS is changed by %d dB', (level, change) => {
    expect(gainsOver(steady(level, 1)).at(-1)).toBeCloseTo(change, 2)
  })

  test('an open gate stays open down to its hysteresis, and not below', () => {
    const gains = (level: number) => gainsOver([...steady(-20, 0.1), ...steady(level, 2)]).at(-1)
    expect(gains(-40 - HYSTERESIS_DECIBELS + 0.5)).toBeCloseTo(0, 3)
    expect(gains(-40 - HYSTERESIS_DECIBELS - 0.5)).toBeCloseTo(-20, 1)
  })

  test.each([0.001, 0.005, 0.03])('an attack of %d s is when 1 - 1/e of the way is made, in decibels', attackSeconds => {
    const gains = gainsOver([...steady(-70, 0.1), ...steady(-10, 0.3)], { ...SETTINGS, attackSeconds })
    const after = (gains.findIndex((gain, i) => i >= 4_800 && gain >= -20 / Math.E) - 4_800) / 48_000
    expect(Math.abs(after / attackSeconds - 1)).toBeLessThan(0.05)
  })

  test.each([
    [0, 0.1],
    [0.1, 0.15],
    [0.5, 0.4],
  ])('it holds for %d s and then closes, 1 - 1/e of the way after a release of %d s more', (holdSeconds, releaseSeconds) => {
    const gains = gainsOver([...steady(-10, 0.3), ...steady(-70, 2)], { ...SETTINGS, holdSeconds, releaseSeconds })
    const begins = (gains.findIndex((gain, i) => i > 14_400 && gain < -0.01) - 14_400) / 48_000
    expect(begins - holdSeconds).toBeGreaterThanOrEqual(-0.0001)
    expect(begins - holdSeconds).toBeLessThan(0.001)
    const closed = (gains.findIndex((gain, i) => i > 14_400 && gain <= -20 * (1 - 1 / Math.E)) - 14_400) / 48_000
    expect(Math.abs((closed - holdSeconds) / releaseSeconds - 1)).toBeLessThan(0.05)
  })

  test('the louder side opens it for both', () => {
    const gate = new Gate(SETTINGS)
    const loud = new Float32Array(9_600).fill(0.3)
    const soft = new Float32Array(9_600).fill(0.001)
    for (let at = 0; at < loud.length; at += 128) gate.process(loud.subarray(at, at + 128), soft.subarray(at, at + 128))
    expect(soft.at(-1)).toBeCloseTo(0.001, 6)
  })
})
