import { describe, expect, test } from '@jest/globals'
import FFT from 'fft.js'
import { peakOf, rmsOf } from '../audio/decibels'
import { exactEncoding } from '../files/wav'
import { analyseBeat } from './analyse'
import { makePlainBeat } from './plain-beat'

describe('a click', () => {
  test('lies on every beat from the first frame on, beat one louder and higher, and its tempo is heard as it was typed', () => {
    const planes = makePlainBeat({ tempoBpm: 90, beatsPerBar: 3, bars: 24, click: true, drone: null })
    const beat = (60 * 48_000) / 90
    expect(planes[0]).toHaveLength(24 * 3 * beat)
    const levels = Array.from({ length: 9 }, (_, i) => peakOf(planes[0].subarray(Math.round(i * beat), Math.round(i * beat) + 1_000)))
    for (const [i, level] of levels.entries()) expect(level / levels[1]).toBeCloseTo(i % 3 === 0 ? 1.4 : 1, 1)
    expect(peakOf(planes[0].subarray(3_000, 31_900))).toBe(0)
    expect(exactEncoding(planes)).toBe('pcm16')
    const { tempo } = analyseBeat(planes)
    expect([45, 90, 180]).toContain(Math.round(tempo.readings[0].tempoBpm))
  })
})

describe('a drone', () => {
  test.each([
    ['A', 110],
    ['C', 130.81],
    ['Ab', 207.65],
  ] as const)('of %s stands on its root at %d Hz, soft and steady, with no click in it', (tonic, hz) => {
    const [left, right] = makePlainBeat({ tempoBpm: 60, beatsPerBar: 4, bars: 8, click: false, drone: { tonic, mode: 'minor' } })
    const size = 1 << 18
    const fft = new FFT(size)
    const spectrum = fft.createComplexArray()
    fft.realTransform(spectrum, [...left.subarray(200_000, 200_000 + size)])
    const power = (bin: number) => spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2
    let best = 1
    for (let bin = 1; bin < size / 8; bin++) if (power(bin) > power(best)) best = bin
    // Within the few cents that its two strings are apart.
    expect(Math.abs(1_200 * Math.log2((best * 48_000) / size / hz))).toBeLessThan(6)
    expect(rmsOf(left, 200_000, 400_000)).toBeLessThan(0.2)
    expect(Math.abs(rmsOf(left, 200_000, 300_000) / rmsOf(right, 200_000, 300_000) - 1)).toBeLessThan(0.05)
    let step = 0
    for (let i = 1; i < left.length; i++) step = Math.max(step, Math.abs(left[i] - left[i - 1]))
    expect(step).toBeLessThan(0.03)
  })
})
