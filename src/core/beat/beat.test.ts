import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { decibelsBetween } from '../audio/signals.test-kit'
import { makeRandom } from '../audio/random'
import { mixToMono, type Mono } from '../audio/frames'
import { resample } from '../audio/resample'
import { makeDemoBeat, DEMO_GRID, DEMO_KEY } from '../rehearsal/demo-beat'
import { addClickInto } from './click'
import { analyseBeat } from './analyse'
import { barAtFrame, beatAtFrame, formatPosition, frameOfBar, frameOfBeat } from './grid'
import { findKey, TONICS } from './key'
import { onsetStrength } from './onset'
import { tempoFromTaps } from './tap'
import { findTempo } from './tempo'

const demo = mixToMono(makeDemoBeat()).subarray(0, 60 * 48_000)

/** Kick, snare and hats on a grid, with leading silence: a beat whose truth is known. */
function drumLoop({ bpm, bars, silenceSeconds = 0, seed = 1 }: { bpm: number; bars: number; silenceSeconds?: number; seed?: number }): Mono {
  const random = makeRandom(seed)
  const beat = (60 / bpm) * 48_000
  const start = silenceSeconds * 48_000
  const signal = new Float32Array(Math.ceil(start + bars * 4 * beat + 24_000))
  const hit = (at: number, length: number, make: (t: number) => number) => {
    for (let i = 0; i < length; i++) signal[Math.round(at) + i] += make(i / 48_000)
  }
  for (let b = 0; b < bars * 4; b++) {
    if (b % 4 === 0 || b % 4 === 2) hit(start + b * beat, 9_600, t => (b % 4 === 0 ? 0.8 : 0.45) * Math.sin(2 * Math.PI * 55 * t) * Math.exp(-t * 14))
    if (b % 2 === 1) hit(start + b * beat, 7_200, t => 0.4 * (2 * random() - 1) * Math.exp(-t * 25))
    for (const half of [0, 0.5]) hit(start + (b + half) * beat, 2_400, t => 0.12 * (2 * random() - 1) * Math.exp(-t * 90))
  }
  return signal
}

describe('tempo', () => {
  test.each([74, 92.6, 104.25, 128, 147])('a drum loop at %f bpm is found within 0.1 %%', bpm => {
    const { readings } = findTempo(onsetStrength(drumLoop({ bpm, bars: 16 })))
    const matches = [1, 2, 0.5].some(octave => Math.abs(readings[0].tempoBpm / (bpm * octave) - 1) < 0.001)
    expect({ found: readings[0].tempoBpm, matches }).toMatchObject({ matches: true })
  })

  test('leading silence moves bar one by its length', () => {
    const at = (silenceSeconds: number) => findTempo(onsetStrength(drumLoop({ bpm: 92, bars: 12, silenceSeconds }))).readings[0].barOnes[0].seconds
    expect(Math.abs(at(1.5) - at(0) - 1.5)).toBeLessThan(0.02)
    expect(Math.abs(at(0))).toBeLessThan(0.025)
  })

  test('stretching a beat by a tenth divides its tempo by 1.1', () => {
    const stretched = resample(drumLoop({ bpm: 110, bars: 12 }), 48_000, 52_800)
    expect(Math.abs(findTempo(onsetStrength(stretched)).readings[0].tempoBpm - 100)).toBeLessThan(0.15)
  })

  test.each([
    ['silence', new Float32Array(20 * 48_000)],
    ['noise', (() => { const random = makeRandom(4); return Float32Array.from({ length: 20 * 48_000 }, () => random() - 0.5) })()],
  ])('%s has no tempo and no key, and no number is made up', (_, signal) => {
    const { tempo, key } = analyseBeat([signal])
    expect(tempo.readings).toEqual([])
    expect(key.readings).toEqual([])
  })
})

test('the demo beat is heard as it was made: tempo, bar one, key', () => {
  const { tempo, key } = analyseBeat([demo])
  expect(Math.abs(tempo.readings[0].tempoBpm / DEMO_GRID.tempoBpm - 1)).toBeLessThan(0.001)
  expect(Math.abs(tempo.readings[0].barOnes[0].seconds - DEMO_GRID.barOneFrame / 48_000)).toBeLessThan(0.03)
  expect(key.readings[0].key).toEqual(DEMO_KEY)
  expect(Math.abs(key.tuningCents)).toBeLessThan(3)
})

test('a beat played two semitones higher is heard two semitones higher', () => {
  const half = demo.slice(0, 30 * 48_000)
  const [asIs, higher] = [half, resample(half, 53_878, 48_000)].map(signal => findKey(signal).readings[0].key)
  expect(higher).toEqual({ tonic: TONICS[(TONICS.indexOf(asIs.tonic) + 2) % 12], mode: asIs.mode })
})

describe('grid', () => {
  const grid = { tempoBpm: 92.6, barOneFrame: 17_904, beatsPerBar: 4 }
  test('bar one begins at its frame, and positions read as bar.beat.sixteenth', () => {
    expect(frameOfBar(grid, 1)).toBe(17_904)
    expect(formatPosition(grid, frameOfBeat(grid, 4 * 20 + 1.5))).toBe('21.2.3')
    expect(formatPosition(grid, 0)).toMatch(/^0\./)
  })
  test('every bar is found again at its own first frame, at any tempo', () => {
    fc.assert(
      fc.property(fc.double({ min: 30, max: 300, noNaN: true }), fc.integer({ min: -20, max: 400 }), fc.integer({ min: 1, max: 12 }), (tempoBpm, bar, beatsPerBar) => {
        const any = { tempoBpm, barOneFrame: 1_234, beatsPerBar }
        expect(barAtFrame(any, frameOfBar(any, bar))).toBe(bar)
        expect(Math.abs(beatAtFrame(any, frameOfBar(any, bar)) - (bar - 1) * beatsPerBar)).toBeLessThan(0.01)
      }),
    )
  })
})

test('taps give a tempo from the fourth on, and one slip does not spoil it', () => {
  expect(tempoFromTaps([0, 0.5, 1])).toBeNull()
  const tapped = tempoFromTaps([0, 0.5, 1.0, 1.51, 2.0, 2.95, 3.45])
  expect(tapped!.tempoBpm).toBeGreaterThan(118)
  expect(tapped!.tempoBpm).toBeLessThan(122)
})

test('the click sounds on the beat, block by block as in one piece', () => {
  const grid = { tempoBpm: 120, barOneFrame: 100, beatsPerBar: 4 }
  const whole = [new Float32Array(48_000), new Float32Array(48_000)] as const
  addClickInto(whole[0], whole[1], grid, 0, 1)
  const blocks = new Float32Array(48_000)
  for (let at = 0; at < 48_000; at += 128) addClickInto(blocks.subarray(at, at + 128), new Float32Array(Math.min(128, 48_000 - at)), grid, at, 1)
  expect(decibelsBetween(blocks, whole[0])).toBe(-Infinity)
  expect(whole[0].findIndex(sample => sample !== 0)).toBeGreaterThanOrEqual(100)
  expect(Math.max(...whole[0].subarray(24_100, 24_400))).toBeGreaterThan(0.2)
})
