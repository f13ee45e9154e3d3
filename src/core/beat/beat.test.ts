import { describe, expect, test } from '@jest/globals'
import { mixToMono, type Mono } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { resample } from '../audio/resample'
import { makeDemoBeat, DEMO_GRID, DEMO_KEY } from '../rehearsal/demo-beat'
import { analyseBeat } from './analyse'
import { findKey, profileOf } from './key'
import { TONICS } from './key-names'
import { listen } from './listen'
import { findTempo } from './tempo'

const demo = mixToMono(makeDemoBeat()).slice(0, 40 * 48_000)

test('the demo beat is heard as it was made: tempo, metre, bar one, key, tuning', () => {
  const { tempo, key } = analyseBeat([demo])
  const [best] = tempo.readings
  expect(Math.abs(best.tempoBpm / DEMO_GRID.tempoBpm - 1)).toBeLessThan(0.001)
  expect(best).toMatchObject({ meter: [4, 4], beats: null })
  expect(Math.abs(best.barOnes[0].seconds - DEMO_GRID.barOneFrame / 48_000)).toBeLessThan(0.015)
  expect(key.readings[0].key).toEqual(DEMO_KEY)
  expect(Math.abs(key.tuningCents)).toBeLessThan(3)
})

describe('what is done to a beat is heard in it', () => {
  const heard = listen(demo)
  const [asIs] = findTempo(heard).readings
  test('a tenth slower divides the tempo by 1.1; two semitones higher move the key by two', () => {
    const slower = listen(resample(demo, 48_000, 52_800))
    expect(Math.abs((findTempo(slower).readings[0].tempoBpm * 1.1) / asIs.tempoBpm - 1)).toBeLessThan(0.001)
    const higher = findKey(listen(resample(demo, 53_878, 48_000)).features.pitches).readings[0].key
    expect(higher).toEqual({ tonic: TONICS[(TONICS.indexOf(DEMO_KEY.tonic) + 2) % 12], mode: DEMO_KEY.mode })
  })

  test('silence before it moves bar one by its length; level and a second channel change nothing', () => {
    const later = new Float32Array(demo.length + 72_000)
    later.set(demo, 72_000)
    const bar = (240 * 48_000) / DEMO_GRID.tempoBpm / 48_000
    const moved = findTempo(listen(later)).readings[0].barOnes[0].seconds - asIs.barOnes[0].seconds - 1.5
    expect(Math.abs(moved - Math.round(moved / bar) * bar)).toBeLessThan(0.01)
    const quiet = analyseBeat([demo.map(x => x * 0.05), demo.map(x => x * 0.05)])
    expect(quiet.tempo.readings[0].tempoBpm).toBeCloseTo(asIs.tempoBpm, 2)
    expect(quiet.key.readings[0].key).toEqual(DEMO_KEY)
  })

  test('a typed tempo is trusted; a range steers the choice', () => {
    const typed = findTempo(heard, { tempoBpm: 92 })
    expect(typed.readings).toHaveLength(1)
    expect(typed.readings[0].tempoBpm).toBe(92)
    expect(findTempo(heard, { range: { minBpm: 150, maxBpm: 200 } }).readings[0].tempoBpm).toBeCloseTo(185.2, 0)
  })
})

test.each([
  ['silence', new Float32Array(20 * 48_000)],
  [
    'noise',
    (() => {
      const random = makeRandom(4)
      return Float32Array.from({ length: 20 * 48_000 }, () => random() - 0.5)
    })(),
  ],
  [
    'a drone',
    Float32Array.from({ length: 20 * 48_000 }, (_, i) => 0.3 * Math.sin((2 * Math.PI * 110 * i) / 48_000) + 0.2 * Math.sin((2 * Math.PI * 165 * i) / 48_000)),
  ],
])('%s has no tempo, and no number is made up', (name, signal) => {
  const { tempo, key } = analyseBeat([signal])
  expect(tempo.readings).toEqual([])
  if (name !== 'a drone') expect(key.readings).toEqual([])
})

test.each([1, 3, 7.9])('of %f seconds of music neither tempo nor bar one is made up, and no key is sure', seconds => {
  const { tempo, key, sections, chords } = analyseBeat([demo.slice(5 * 48_000, (5 + seconds) * 48_000)])
  expect([tempo.readings, sections, chords]).toEqual([[], [], []])
  for (const reading of key.readings) expect(reading.confidence).toBeLessThan(0.55)
})

test('fewer than four bars have no tempo', () => {
  // At 92.6 bpm a bar lasts 2.6 s.
  for (const reading of analyseBeat([demo.slice(0, 10 * 48_000)]).tempo.readings)
    expect((10 * reading.tempoBpm) / (60 * reading.beatsPerBar)).toBeGreaterThan(3.9)
})

/** A drum loop whose tempo falls by a twentieth: as if played, or from a tape that runs down. */
test('a beat that drifts gets its beats one by one', () => {
  const random = makeRandom(2)
  const signal: Mono = new Float32Array(48 * 48_000)
  const beats: number[] = []
  let at = 0.4
  for (let beat = 0; at < 47; beat++) {
    beats.push(at)
    const period = 60 / (104 * (1 - (0.05 * at) / 48))
    hit(signal, at, 0.2, t => (beat % 2 === 0 ? 0.8 * Math.sin(2 * Math.PI * 55 * t) * Math.exp(-t * 14) : 0.4 * (2 * random() - 1) * Math.exp(-t * 25)))
    for (const half of [0, 0.5]) hit(signal, at + half * period, 0.05, t => 0.12 * (2 * random() - 1) * Math.exp(-t * 90))
    at += period
  }
  const [best] = analyseBeat([signal]).tempo.readings
  const found = best.beats!
  const worst = Math.max(...beats.map(beat => Math.min(...found.map(other => Math.abs(other - beat)))))
  expect(worst).toBeLessThan(0.04)
})

describe('keys of loops that were written down', () => {
  test.each([
    [
      'minor, with the sixth of dorian',
      [
        [2, 5, 9, 12],
        [7, 11, 14],
        [2, 5, 9],
        [2, 5, 9],
      ],
      { tonic: 'D', mode: 'minor' },
      'dorian',
    ],
    [
      'minor, with its own sixth and seventh',
      [
        [9, 12, 16],
        [2, 5, 9],
        [4, 7, 11],
        [9, 12, 16],
      ],
      { tonic: 'A', mode: 'minor' },
      null,
    ],
    [
      'minor, with the seventh of the harmonic scale',
      [
        [9, 12, 16],
        [2, 5, 9],
        [4, 8, 11],
        [9, 12, 16],
      ],
      { tonic: 'A', mode: 'minor' },
      'harmonic minor',
    ],
    [
      'minor, with the second of phrygian',
      [
        [9, 12, 16],
        [10, 14, 17],
        [9, 12, 16],
        [9, 12, 16],
      ],
      { tonic: 'A', mode: 'minor' },
      'phrygian',
    ],
    [
      'major, with its own seventh',
      [
        [7, 11, 14],
        [0, 4, 7],
        [2, 6, 9],
        [7, 11, 14],
      ],
      { tonic: 'G', mode: 'major' },
      null,
    ],
    [
      'major, with the seventh of mixolydian',
      [
        [7, 11, 14],
        [5, 9, 12],
        [7, 11, 14],
        [7, 11, 14],
      ],
      { tonic: 'G', mode: 'major' },
      'mixolydian',
    ],
    [
      'major, with the fourth of lydian',
      [
        [5, 9, 12],
        [7, 11, 14],
        [5, 9, 12],
        [5, 9, 12],
      ],
      { tonic: 'F', mode: 'major' },
      'lydian',
    ],
  ])('%s', (_, chords, key, colour) => {
    const { readings } = findKey(listen(loopOf(chords, 0)).features.pitches)
    expect(readings[0]).toMatchObject({ key, colour })
  })

  test.each([2, 3, 4, 5, 8])('a loop in D minor stays in it wherever it is cut off: after %i chords', chords => {
    const progression = [
      [2, 5, 9],
      [5, 9, 12],
      [0, 4, 7],
      [7, 10, 14],
    ]
    const loop = loopOf(
      Array.from({ length: 8 + chords }, (_, i) => progression[i % 4]),
      0,
    )
    expect(findKey(listen(loop).features.pitches).readings[0].key).toEqual({ tonic: 'D', mode: 'minor' })
  })

  test.each([-40, -17, 0, 23, 45])('tuned %i cents off, and heard so', cents => {
    const found = findKey(
      listen(
        loopOf(
          [
            [9, 12, 16],
            [2, 5, 9],
            [4, 8, 11],
            [9, 12, 16],
          ],
          cents,
        ),
      ).features.pitches,
    )
    expect(Math.abs(found.tuningCents - cents)).toBeLessThan(3)
    expect(found.readings[0].key).toEqual({ tonic: 'A', mode: 'minor' })
  })

  test('what is usual in a key is led by its tonic, and moves with it', () => {
    const usual = profileOf({ tonic: 'D', mode: 'minor' })
    expect(usual.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 2)
    expect(usual.indexOf(Math.max(...usual))).toBe(2)
    expect(usual[5]).toBeGreaterThan(2 * usual[6])
  })
})

/** Chords of two seconds, three times over, each with its root in the bass, struck every half second. @param chords Semitones above C. */
function loopOf(chords: number[][], cents: number): Mono {
  const signal = new Float32Array(chords.length * 3 * 2 * 48_000)
  for (let strike = 0; strike < chords.length * 12; strike++) {
    const chord = chords[(strike >> 2) % chords.length]
    for (const [semitones, level] of [...chord.map(pitch => [pitch, 0.12] as const), [(chord[0] % 12) - 24, 0.3] as const]) {
      const hz = 261.626 * 2 ** ((semitones + cents / 100) / 12)
      hit(
        signal,
        strike / 2,
        0.5,
        t => level * Math.exp(-t * 3) * [1, 0.5, 0.25].reduce((sum, partial, k) => sum + partial * Math.sin(2 * Math.PI * hz * (k + 1) * t), 0),
      )
    }
  }
  return signal
}

function hit(signal: Mono, seconds: number, length: number, make: (t: number) => number): void {
  const from = Math.round(seconds * 48_000)
  for (let i = 0; i < length * 48_000 && from + i < signal.length; i++) signal[from + i] += make(i / 48_000)
}
