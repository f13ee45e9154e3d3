import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { makeRandom } from '../audio/random'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { Spectrum } from '../audio/spectrum'
import { framePowers } from '../voice/level'
import { centsOf, readNotes } from '../voice/notes'
import { trackPitch } from '../voice/pitch'
import { buzz } from '../voice/voice.test-kit'
import { nearestRung, nextRung, toScale, type Scale } from './targets'
import { toWritten } from './written'
import { isMoved, shiftsOf } from './shifts'
import { tune } from './tune'
import { stepOf, TUNE_STEPS } from './tune-settings'
import type { TuneSettings } from '../song/tidy-schema'

const C_MAJOR: Scale = { key: { tonic: 'C', mode: 'major' }, colour: null, tuningCents: 0 }
const hzOf = (midi: number) => 440 * 2 ** ((midi - 69) / 12)

/** Notes of 0.5 s from 0.5 s on, so many cents off, each with vibrato. */
const NOTES = [
  { midi: 60, off: 34 },
  { midi: 62, off: -28 },
  { midi: 65, off: 41 },
  { midi: 64, off: -45 },
  { midi: 67, off: 22 },
  { midi: 60, off: -36 },
]
function melody(octaves = 0, semitones = 0, vibratoCents = 25, offBy = 1): Mono {
  return buzz(seconds => {
    const { midi, off } = NOTES[Math.max(0, Math.min(5, Math.floor((seconds - 0.5) / 0.5)))]
    return hzOf(midi + 12 * octaves + semitones + (offBy * off) / 100) * 2 ** ((vibratoCents * Math.sin(2 * Math.PI * 5.5 * seconds)) / 1_200)
  }).sound.map(sample => 0.08 * sample)
}
const hear = (voice: Mono) => ({ ...trackPitch(voice), power: framePowers(voice, SAMPLE_RATE_HZ) })
function tuned(voice: Mono, settings: TuneSettings, scale = C_MAJOR): Mono {
  const heard = hear(voice)
  return tune(voice, heard, toScale(readNotes(heard), scale), settings)
}

/** Of each note: how far its middle lies from where it should, and how it swings. */
function measure(voice: Mono, semitones = 0) {
  const { f0Hz } = trackPitch(voice)
  return NOTES.map(({ midi }, i) => {
    // Two turns of its vibrato: their mean is the note.
    const cents = Array.from(f0Hz.subarray(Math.round((0.6 + 0.5 * i) / 0.005), Math.round((0.6 + 2 / 5.5 + 0.5 * i) / 0.005)), centsOf).sort((a, b) => a - b)
    return {
      off: cents.reduce((sum, value) => sum + value, 0) / cents.length - 100 * (midi + semitones),
      swing: (cents[Math.floor(0.9 * cents.length)] - cents[Math.floor(0.1 * cents.length)]) / 2,
    }
  })
}
const sungAt = (cents: number, i: number) => ({
  startSeconds: 0.4 * i,
  endSeconds: 0.4 * i + 0.35,
  heldFromSeconds: 0.4 * i,
  heldToSeconds: 0.4 * i + 0.35,
  cents,
  vibratoCents: 0,
  vibratoHz: 0,
})
const same = (a: Mono, b: Mono) => a.length === b.length && a.every((sample, i) => sample === b[i])

describe('a voice that is off', () => {
  const voice = melody()
  const before = measure(voice)
  test('comes to lie on the rungs of its key within 3 cents, with its vibrato', () => {
    const after = measure(tuned(voice, { ...TUNE_STEPS.firmly, vibratoKept: 1 }))
    for (const [i, { off, swing }] of after.entries()) {
      expect(Math.abs(off)).toBeLessThan(3)
      expect(Math.abs(swing / before[i].swing - 1)).toBeLessThan(0.15)
    }
  })
  test('is flat and steps where it is tuned hard', () => {
    for (const { off, swing } of measure(tuned(voice, TUNE_STEPS.hard))) {
      expect(Math.abs(off)).toBeLessThan(3)
      expect(swing).toBeLessThan(5)
    }
  })
  test('is led so far as the amount says', () => {
    const after = measure(tuned(voice, { ...TUNE_STEPS.firmly, amount: 0.5, toleranceCents: 0 }))
    after.forEach(({ off }, i) => expect(Math.abs(off - NOTES[i].off / 2)).toBeLessThan(5))
  })
  test('goes to other rungs if they are written', () => {
    const heard = hear(voice)
    const written = NOTES.map(({ midi }, i) => ({ startSeconds: 0.5 + 0.5 * i, endSeconds: 1 + 0.5 * i, midi: midi + (i === 2 ? 2 : 0) }))
    const after = measure(tune(voice, heard, toWritten(readNotes(heard), written, heard), TUNE_STEPS.firmly))
    after.forEach(({ off }, i) => expect(Math.abs(off - (i === 2 ? 200 : 0))).toBeLessThan(4))
  })
  test.each([
    ['bass', -2],
    ['child', 1],
  ])('is tuned as a %s too', (_, octaves) => {
    for (const { off } of measure(tuned(melody(octaves), TUNE_STEPS.firmly), 12 * octaves)) expect(Math.abs(off)).toBeLessThan(4)
  })
  test('and its key moved together move what comes out', () => {
    const up: Scale = { ...C_MAJOR, key: { tonic: 'Eb', mode: 'major' } }
    for (const { off } of measure(tuned(melody(0, 3), TUNE_STEPS.firmly, up), 3)) expect(Math.abs(off)).toBeLessThan(3)
  })
  test('over a beat that is tuned 30 cents low goes there', () => {
    const low = tuned(melody(0, -0.3), TUNE_STEPS.firmly, { ...C_MAJOR, tuningCents: -30 })
    for (const { off } of measure(low, -0.3)) expect(Math.abs(off)).toBeLessThan(3)
  })
  test('in two parts, cut at a rest, is what it is as a whole', () => {
    const twice = new Float32Array(2 * voice.length)
    twice.set(voice)
    twice.set(melody(0, 0, 40), voice.length)
    const heard = hear(twice)
    const notes = toScale(readNotes(heard), C_MAJOR)
    const whole = tune(twice, heard, notes, TUNE_STEPS.firmly)
    const hops = voice.length / 240
    const first = tune(voice, { ...heard, f0Hz: heard.f0Hz.slice(0, hops), clarity: heard.clarity.slice(0, hops) }, notes, TUNE_STEPS.firmly)
    expect(same(whole.subarray(0, voice.length), first)).toBe(true)
  })
})

describe('where nothing is to be moved', () => {
  test('a voice that is in tune comes back to the bit', () => {
    const voice = melody(0, 0, 20, 0)
    expect(same(tuned(voice, TUNE_STEPS.gently), voice)).toBe(true)
  })
  test('so do silence and noise', () => {
    const random = makeRandom(5)
    for (const unsung of [new Float32Array(SAMPLE_RATE_HZ), Float32Array.from({ length: SAMPLE_RATE_HZ }, () => 0.1 * (random() - 0.5))])
      expect(same(tuned(unsung, TUNE_STEPS.hard), unsung)).toBe(true)
  })
  test('what lies before and after the voice, and a note that is left, are the take to the bit', () => {
    const voice = melody()
    const random = makeRandom(8)
    for (let i = 0; i < voice.length; i++) voice[i] += 0.0004 * (random() - 0.5)
    const heard = hear(voice)
    const notes = toScale(readNotes(heard), C_MAJOR).map((note, i) => (i < 3 ? { ...note, targetCents: null } : note))
    const made = tune(voice, heard, notes, TUNE_STEPS.hard)
    expect(same(made.subarray(0, 1.95 * SAMPLE_RATE_HZ), voice.subarray(0, 1.95 * SAMPLE_RATE_HZ))).toBe(true)
    expect(same(made.subarray(3.56 * SAMPLE_RATE_HZ), voice.subarray(3.56 * SAMPLE_RATE_HZ))).toBe(true)
    expect(same(made, voice)).toBe(false)
  })
  test('a voice whose pitch is not certain is left alone', () => {
    const heard = hear(melody())
    const unsure = { ...heard, clarity: heard.clarity.map(() => 0.4) }
    expect(shiftsOf(unsure, toScale(readNotes(heard), C_MAJOR), TUNE_STEPS.hard).every(shift => shift === 0)).toBe(true)
  })
})

test('the throat is moved by itself: formants a third higher, the pitch where it was', () => {
  const voice = buzz(() => 62).sound.map(sample => 0.08 * sample)
  const heard = hear(voice)
  const made = tune(voice, heard, [], { ...TUNE_STEPS.barely, throatSemitones: 4 })
  const after = hear(made)
  const middle = (f0Hz: Float32Array) => centsOf(f0Hz[Math.round(2 / 0.005)])
  expect(Math.abs(middle(after.f0Hz) - middle(heard.f0Hz))).toBeLessThan(2)
  expect(Math.abs(strongestHz(made) / strongestHz(voice) / 2 ** (4 / 12) - 1)).toBeLessThan(0.05)
})

/** Centre of the first resonance: of the power between 400 and 1 100 Hz. */
function strongestHz(voice: Mono): number {
  const spectrum = new Spectrum(8_192)
  const magnitudes = spectrum.read(voice, 2 * SAMPLE_RATE_HZ)
  let [sum, weight] = [0, 0]
  for (let bin = 68; bin < 188; bin++) {
    const power = magnitudes[bin] ** 4
    sum += power * bin
    weight += power
  }
  return sum / weight
}

describe('rungs', () => {
  test('the nearest one is never further than a tone of the scale, and is in the scale', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2_400, max: 10_800 }), fc.integer({ min: -50, max: 50 }), (cents, tuningCents) => {
        const rung = nearestRung(cents, { ...C_MAJOR, tuningCents })
        expect(Math.abs(rung - cents)).toBeLessThanOrEqual(100)
        expect([0, 200, 400, 500, 700, 900, 1_100]).toContain((((rung - tuningCents) % 1_200) + 1_200) % 1_200)
        // No rung lies between.
        const [below, above] = [nextRung(rung, -1, { ...C_MAJOR, tuningCents }), nextRung(rung, 1, { ...C_MAJOR, tuningCents })]
        expect(Math.abs(rung - cents)).toBeLessThanOrEqual(Math.min(Math.abs(below - cents), Math.abs(above - cents)))
      }),
    )
  })
  test('a coloured key has its own', () => {
    const minor: Scale = { key: { tonic: 'A', mode: 'minor' }, colour: null, tuningCents: 0 }
    expect(nearestRung(6_790, minor)).toBe(6_700)
    expect(nearestRung(6_790, { ...minor, colour: 'harmonic minor' })).toBe(6_800)
  })
  test('a line that is flat as a whole keeps its tune: the flattest note goes where its neighbours do', () => {
    const line = [6_000, 6_200, 6_400, 6_500, 6_700, 6_500, 6_400].map((rung, i) => sungAt(rung - [46, 42, 49, 56, 45, 41, 47][i], i))
    expect(toScale(line, C_MAJOR).map(note => note.targetCents)).toEqual([6_000, 6_200, 6_400, 6_500, 6_700, 6_500, 6_400])
    // By itself that note is nearer to the rung below.
    expect(toScale([line[3]], C_MAJOR)[0].targetCents).toBe(6_400)
  })
  test('a line whose notes are off this way and that does not lean', () => {
    const offs = [31, -28, 12, -35, 22, -9, 38]
    const line = [6_000, 6_200, 6_400, 6_500, 6_700, 6_500, 6_400].map((rung, i) => sungAt(rung + offs[i], i))
    expect(toScale(line, C_MAJOR).map(note => note.targetCents)).toEqual([6_000, 6_200, 6_400, 6_500, 6_700, 6_500, 6_400])
  })
  test('a note within the tolerance is left', () => {
    expect(isMoved({ cents: 6_010, targetCents: 6_000 }, { toleranceCents: 12, amount: 1 })).toBe(false)
    expect(isMoved({ cents: 6_013, targetCents: 6_000 }, { toleranceCents: 12, amount: 1 })).toBe(true)
    expect(isMoved({ cents: 6_030, targetCents: null }, { toleranceCents: 0, amount: 1 })).toBe(false)
  })
})

test('every step in words is recognised by its numbers, whatever the throat', () => {
  expect(stepOf({ ...TUNE_STEPS.gently, throatSemitones: 2 })).toBe('gently')
  expect(stepOf({ ...TUNE_STEPS.gently, amount: 0.5 })).toBeNull()
})
