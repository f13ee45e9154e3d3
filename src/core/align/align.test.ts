import { beforeAll, describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { quantile } from '../audio/statistics'
import { makeRandom, gaussian } from '../audio/random'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import type { EditId, TimeEdit } from '../song/edit-schema'
import { resynthesise } from '../tune/resynthesise'
import { soundingAt, sungAt, timeMapOf, type TimeMap } from '../tune/time-map'
import { trackPitch } from '../voice/pitch'
import { align } from './align'
import { findAnchors, placeOf, type Anchor } from './follow'
import { timesOf } from './times'

/** Two lines, from a second before the first. */
const lines = scoreOfSheet(makeDemoSheet(0)).slice(0, 2)
const origin = Math.max(0, Math.round((lines[0].notes[0].startSeconds - 1) * SAMPLE_RATE_HZ))
const frames = Math.ceil((lines[1].notes.at(-1)!.endSeconds + 1) * SAMPLE_RATE_HZ)
const lead = sing({ score: lines, frames, seed: 7, take: 1, faults: { ...NO_FAULTS, noiseDbfs: -70 } }).subarray(origin) as Mono
const onsets = lines.flatMap(line => line.notes.map(note => note.startSeconds - origin / SAMPLE_RATE_HZ))
/** Earlier and later by up to 90 ms, otherwise from syllable to syllable. */
const drift: TimeMap = (() => {
  const later = [0, 0.06, -0.03, 0.09, 0.02, -0.06, 0.05, 0.08, -0.02, 0.04]
  const from = Array.from({ length: Math.floor(lead.length / SAMPLE_RATE_HZ / 0.5) }, (_, i) => Math.round(0.5 * i * SAMPLE_RATE_HZ))
  return { from, to: from.map((frame, i) => frame + Math.round(later[i % later.length] * SAMPLE_RATE_HZ)) }
})()

let pitch: { f0Hz: Float32Array; hopFrames: number }
beforeAll(() => {
  pitch = { f0Hz: trackPitch(lead).f0Hz, hopFrames: 240 }
})
/** The lead as another would sing it: with other timing, at another pitch, with another throat, in another room. */
function sungBy({ cents, throat }: { cents: number; throat: number }): Mono {
  const random = makeRandom(5)
  return resynthesise(lead, { pitch, centsAt: () => cents, time: drift, throatSemitones: throat }).map(sample => 0.7 * sample + 2e-4 * gaussian(random))
}
const later = (anchors: readonly Anchor[], at: number) => {
  const time = timeMapOf(timesOf(anchors.map(placeOf), 1))
  return (sungAt(time, at * SAMPLE_RATE_HZ) - at * SAMPLE_RATE_HZ) / SAMPLE_RATE_HZ
}
const trueLater = (at: number) => (soundingAt(drift, at * SAMPLE_RATE_HZ) - at * SAMPLE_RATE_HZ) / SAMPLE_RATE_HZ

describe('a voice beside the lead', () => {
  test.each([
    ['a double', { cents: 12, throat: 0 }],
    ['another throat', { cents: 0, throat: 2.5 }],
    ['a third above', { cents: 400, throat: 0.5 }],
    ['an octave below', { cents: -1_200, throat: -1 }],
  ])('%s: each note is found where it was sung, within 4 ms mostly and 10 ms nearly always', (_, how) => {
    const anchors = findAnchors(lead, sungBy(how))
    const off = Float32Array.from(onsets, at => 1_000 * Math.abs(later(anchors, at) - trueLater(at)))
    expect(quantile(off, 0.5)).toBeLessThan(4)
    expect(quantile(off, 0.9)).toBeLessThan(10)
  })
  test('is found as well beside a line that is sung far louder', () => {
    const [, second] = lines
    const from = Math.round((second.notes[0].startSeconds - 0.2) * SAMPLE_RATE_HZ) - origin
    const anchors = findAnchors(
      lead.map((sample, i) => (i < from ? sample : 6 * sample)),
      sungBy({ cents: 0, throat: 2.5 }),
    )
    const off = Float32Array.from(onsets, at => 1_000 * Math.abs(later(anchors, at) - trueLater(at)))
    expect(quantile(off, 0.5)).toBeLessThan(4)
    expect(quantile(off, 0.9)).toBeLessThan(10)
  })
  test('is brought to it: what was up to 90 ms off begins together', () => {
    const double = sungBy({ cents: 12, throat: 0 })
    const { sound } = align(lead, double, 1)
    expect(sound).toHaveLength(lead.length)
    const left = findAnchors(lead, sound)
    const off = Float32Array.from(left, ({ leadSeconds, otherSeconds }) => 1_000 * Math.abs(otherSeconds - leadSeconds))
    expect(quantile(off, 0.5)).toBeLessThan(3)
    expect(quantile(off, 0.9)).toBeLessThan(10)
  })
  test('goes half of the way at half the tightness', () => {
    const anchors = findAnchors(lead, sungBy({ cents: 12, throat: 0 }))
    const [half, whole] = [0.5, 1].map(tightness => timesOf(anchors.map(placeOf), tightness))
    expect(whole.length).toBeGreaterThan(20)
    whole.forEach(({ frame, laterFrames }, i) => {
      expect(half[i].frame).toBe(frame)
      expect(Math.abs(half[i].laterFrames - laterFrames / 2)).toBeLessThanOrEqual(1)
    })
  })
})

describe('what is not to be moved is the same to the bit', () => {
  /** One line says as much. */
  const line = lead.slice(0, 4 * SAMPLE_RATE_HZ)
  test('a take against itself', () => {
    expect(align(line, line, 1).sound).toEqual(line)
  })
  test('at no tightness', () => {
    const double = sungBy({ cents: 12, throat: 0 }).slice(0, line.length)
    expect(align(line, double, 0).sound).toEqual(double)
  })
  test('silence, and silence against a voice', () => {
    const silence = new Float32Array(line.length)
    expect(align(line, silence, 1).sound).toEqual(silence)
    expect(align(silence, line, 1).sound).toEqual(line)
    expect(findAnchors(new Float32Array(0), line)).toEqual([])
  })
})

test('time never turns round, whatever was found and whatever the hand moved', () => {
  const random = makeRandom(2)
  for (let round = 0; round < 300; round++) {
    const places = Array.from({ length: 12 }, (): [number, number] => [Math.round(96_000 * random()), Math.round(28_000 * (random() - 0.5))])
    const own = round % 3 === 0 ? [{ id: 'hand' as EditId, frame: 40_000, laterFrames: Math.round(20_000 * (random() - 0.5)) }] : []
    const times = timesOf(places, random(), { own, still: round % 4 === 0 ? [30_000, 60_000] : [] })
    for (const hand of own) expect(times).toContainEqual(hand)
    const { from, to } = timeMapOf(times)
    for (let i = 1; i < from.length; i++) {
      if (from[i] <= from[i - 1]) throw new Error(`round ${round}: place ${i} lies before the one before it`)
      if (to[i] <= to[i - 1]) throw new Error(`round ${round}: place ${i} comes to sound before the one before it`)
    }
  }
})

test('what stays as sung is held where it lies, unless the hand moved it near by', () => {
  const places: [number, number][] = [24_000, 48_000, 71_000, 73_000].map(frame => [frame, 3_000])
  const movedBy = (own: readonly TimeEdit[]) => {
    const time = timeMapOf(timesOf(places, 1, { own, still: [72_000, 120_000] }))
    return [48_000, 72_000, 100_000, 120_000].map(frame => Math.round(soundingAt(time, frame) - frame))
  }
  expect(movedBy([])).toEqual([3_000, 0, 0, 0])
  expect(movedBy([{ id: 'hand' as EditId, frame: 72_500, laterFrames: 900 }])[1]).toBeGreaterThan(850)
  expect(timesOf([], 1, { still: [72_000] })).toEqual([])
  expect(timesOf(places, 0, { still: [72_000] })).toEqual([])
})

test('ends that are to lie with the lead’s go all the way, the rest as tightly as asked, or not at all', () => {
  const places: [number, number][] = [
    [48_000, 3_000],
    [96_000, 3_000],
  ]
  const laterAt = (tightness: number, frame: number) => {
    const time = timeMapOf(timesOf(places, tightness, { ends: [97_000] }))
    return soundingAt(time, frame) - frame
  }
  expect([laterAt(0.5, 48_000), laterAt(0.5, 96_000)]).toEqual([1_500, 3_000])
  expect([laterAt(0, 48_000), laterAt(0, 96_000)]).toEqual([0, 3_000])
  expect(timesOf(places, 0)).toEqual([])
})
