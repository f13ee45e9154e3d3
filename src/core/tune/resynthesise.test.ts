import { describe, expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { Spectrum } from '../audio/spectrum'
import type { Mono } from '../audio/frames'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import { smallSong } from '../song/song.test-kit'
import { trackPitch } from '../voice/pitch'
import { buzz } from '../voice/voice.test-kit'
import { resynthesise, SETTLED_FRAMES } from './resynthesise'
import { timeMapOf } from './time-map'
import type { EditId, TimeEdit } from '../song/edit-schema'

const RATE = 48_000
const HOP_FRAMES = 240
const STILL = timeMapOf([])
const pitchOf = (voice: Mono) => ({ f0Hz: trackPitch(voice).f0Hz, hopFrames: HOP_FRAMES })
const at = (frame: number, laterFrames: number): TimeEdit => ({ id: `at-${frame}` as EditId, frame, laterFrames })
const centsBetween = (a: number, b: number) => 1_200 * Math.log2(a / b)
const firstDifference = (a: Mono, b: Mono) => a.findIndex((sample, i) => sample !== b[i])
const rms = (sound: Mono) => Math.sqrt(sound.reduce((sum, sample) => sum + sample * sample, 0) / sound.length)

/** Power of bands of 500 Hz up to 5 kHz, each wide enough for a harmonic or two, in decibels about their mean. */
function envelopeOf(sound: Mono): number[] {
  const spectrum = new Spectrum(8_192)
  const bands = new Float64Array(10)
  for (let from = 0; from + 8_192 <= sound.length; from += 4_096) {
    spectrum.read(sound, from).forEach((magnitude, bin) => {
      const band = Math.floor((bin * RATE) / 8_192 / 500)
      if (band < bands.length) bands[band] += magnitude * magnitude
    })
  }
  const levels = [...bands].map(power => 10 * Math.log10(power))
  const mean = levels.reduce((sum, level) => sum + level) / levels.length
  return levels.map(level => level - mean)
}

describe('a voice at another pitch', () => {
  // Sung from 0.5 s to 3.5 s with vibrato; a second of it is raised.
  const hzAt = (seconds: number) => 220 * 2 ** ((30 * Math.sin(2 * Math.PI * 5.5 * seconds)) / 1_200)
  const { sound } = buzz(hzAt)
  const [from, to] = [1.2 * RATE, 2.2 * RATE]
  const shifted = (cents: number) => resynthesise(sound, { pitch: pitchOf(sound), centsAt: frame => (frame >= from && frame < to ? cents : 0), time: STILL })

  test.each([-700, -200, -30, 40, 300, 700])('by %i cents lies there within 3 cents, and keeps its vibrato', cents => {
    const track = trackPitch(shifted(cents))
    const errors: number[] = []
    track.f0Hz.forEach((hz, i) => {
      const seconds = i * track.hopSeconds
      if (seconds > 1.25 && seconds < 2.15 && hz > 0) errors.push(centsBetween(hz, hzAt(seconds)) - cents)
    })
    expect(errors.length).toBeGreaterThan(170)
    const sorted = errors.map(Math.abs).sort((a, b) => a - b)
    expect(sorted[sorted.length >> 1]).toBeLessThan(3)
    expect(sorted[Math.floor(0.9 * sorted.length)]).toBeLessThan(12)
  })

  test('is the take to the bit before the change, and again once it has settled', () => {
    for (const cents of [-300, 50, 700]) {
      const moved = shifted(cents)
      expect(firstDifference(moved, sound)).toBeGreaterThan(from - 480)
      const settled = to + SETTLED_FRAMES
      expect(firstDifference(moved.subarray(settled), sound.subarray(settled))).toBe(-1)
    }
  })

  test('is led back without a step in pitch', () => {
    const { f0Hz, hopSeconds } = trackPitch(shifted(300))
    for (let seconds = 2.24; seconds < 2.7; seconds += hopSeconds)
      expect(Math.abs(centsBetween(f0Hz[Math.round(seconds / hopSeconds)], hzAt(seconds)))).toBeLessThan(25)
  })

  test.each([-400, 400])('by %i cents has the formants of a voice that sings so, and is as loud', cents => {
    const inside = (voice: Mono) => voice.subarray(from + 4_800, to - 4_800)
    const truth = buzz(seconds => hzAt(seconds) * 2 ** (cents / 1_200)).sound
    const [is, should] = [shifted(cents), truth].map(voice => envelopeOf(inside(voice)))
    const errors = is.map((level, i) => Math.abs(level - should[i])).sort((a, b) => a - b)
    expect(errors[5]).toBeLessThan(2)
    expect(Math.abs(20 * Math.log10(rms(inside(shifted(cents))) / rms(inside(sound))))).toBeLessThan(0.8)
  })

  test('of silence and of noise nothing is changed', () => {
    const random = makeRandom(3)
    for (const unsung of [new Float32Array(RATE), Float32Array.from({ length: RATE }, () => 0.1 * (random() - 0.5))])
      expect(firstDifference(resynthesise(unsung, { pitch: pitchOf(unsung), centsAt: () => 300, time: STILL }), unsung)).toBe(-1)
  })
})

describe('a voice at another time', () => {
  const { sound } = buzz(() => 180)
  const start = 0.5 * RATE

  test.each([-4_000, 2_400, 9_600])('a beginning that is moved by %i frames lies there, and its pitch stays', laterFrames => {
    const moved = resynthesise(sound, { pitch: pitchOf(sound), centsAt: () => 0, time: timeMapOf([at(start, laterFrames), at(start + 24_000, laterFrames)]) })
    const loud = (voice: Mono) => voice.findIndex(sample => Math.abs(sample) > 0.02)
    expect(Math.abs(loud(moved) - loud(sound) - laterFrames)).toBeLessThan(240)
    const { f0Hz } = trackPitch(moved)
    const cents = [...f0Hz].filter(hz => hz > 0).map(hz => Math.abs(centsBetween(hz, 180)))
    expect(cents.sort((a, b) => a - b)[Math.floor(0.95 * cents.length)]).toBeLessThan(12)
    // The end, far from it, is as it was.
    expect(firstDifference(moved.subarray(3 * RATE), sound.subarray(3 * RATE))).toBe(-1)
  })

  test('nothing clicks, wherever its first pulse comes to lie', () => {
    const short = sound.slice(0.4 * RATE, 0.9 * RATE).map((sample, i) => sample * Math.max(0, Math.min(1, 4 - i / (0.1 * RATE))))
    const pitch = pitchOf(short)
    // As where a voice begins to creak: the first pulse that is known is a loud one.
    pitch.f0Hz.fill(0, 0, (0.2 * RATE) / HOP_FRAMES)
    const sharpest = (voice: Mono) => voice.reduce((most, sample, i) => Math.max(most, Math.abs(sample - 2 * (voice[i + 1] ?? 0) + (voice[i + 2] ?? 0))), 0)
    for (let later = 0; later < 720; later++) {
      const moved = resynthesise(short, { pitch, centsAt: () => 0, time: timeMapOf([at(0.1 * RATE, 0), at(0.4 * RATE, later)]) })
      if (sharpest(moved) > 1.1 * sharpest(short)) throw new Error(`moved by ${later} frames it clicks`)
    }
  })

  test('what is moved as a whole is only moved: noise to the bit', () => {
    const random = makeRandom(4)
    const noise = Float32Array.from({ length: 2 * RATE }, () => random() - 0.5)
    const moved = resynthesise(noise, { pitch: pitchOf(noise), centsAt: () => 0, time: timeMapOf([at(30_000, 1_000), at(60_000, 1_000)]) })
    const inside = moved.subarray(32_000, 60_000).map((sample, i) => sample - noise[31_000 + i])
    expect(Math.max(...inside.map(Math.abs))).toBeLessThan(1e-6)
    expect(firstDifference(moved.subarray(85_000), noise.subarray(85_000))).toBe(-1)
  })
})

test('words with all their consonants: only the note that is moved is changed', () => {
  const song = { ...smallSong(), ...makeDemoSheet(60 * RATE) }
  const line = scoreOfSheet(song)[0]
  const score = [
    {
      ...line,
      startSeconds: 0.5,
      notes: line.notes.map(note => ({
        ...note,
        startSeconds: note.startSeconds - line.startSeconds + 0.5,
        endSeconds: note.endSeconds - line.startSeconds + 0.5,
      })),
    },
  ]
  const voice = sing({ score, frames: 5 * RATE, seed: 5, take: 1, faults: NO_FAULTS })
  const pitch = pitchOf(voice)
  expect(firstDifference(resynthesise(voice, { pitch, centsAt: () => 0, time: STILL }), voice)).toBe(-1)
  const note = score[0].notes[2]
  const [from, to] = [note.startSeconds * RATE, note.endSeconds * RATE]
  const moved = resynthesise(voice, { pitch, centsAt: frame => (frame >= from && frame < to ? 200 : 0), time: STILL })
  const middle = Math.round((from + to) / 2 / HOP_FRAMES)
  expect(pitch.f0Hz[middle]).toBeGreaterThan(0)
  expect(centsBetween(pitchOf(moved).f0Hz[middle], pitch.f0Hz[middle])).toBeCloseTo(200, -1)
  expect(firstDifference(moved, voice)).toBeGreaterThan(from - 960)
  expect(firstDifference(moved.subarray(to + SETTLED_FRAMES), voice.subarray(to + SETTLED_FRAMES))).toBe(-1)
})
