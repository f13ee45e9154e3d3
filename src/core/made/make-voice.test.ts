import { beforeAll, describe, expect, test } from '@jest/globals'
import { findCopy, phasesOf } from '../align/copies'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { quantile } from '../audio/statistics'
import type { PartNote } from '../parts/part'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import { analyseVoice, type VoiceAnalysis } from '../voice/analyse-voice'
import { centsOf, readNotes } from '../voice/notes'
import { trackPitch } from '../voice/pitch'
import { makeVoice } from './make-voice'

const lines = scoreOfSheet(makeDemoSheet(0)).slice(0, 2)
const origin = Math.max(0, Math.round((lines[0].notes[0].startSeconds - 1) * SAMPLE_RATE_HZ))
const frames = Math.ceil((lines[1].notes.at(-1)!.endSeconds + 1) * SAMPLE_RATE_HZ)
const lead = sing({ score: lines, frames, seed: 7, take: 1, faults: { ...NO_FAULTS, noiseDbfs: -80 } }).subarray(origin) as Mono
const written = (semitones: number, count = 2): PartNote[] =>
  lines.slice(0, count).flatMap(line =>
    line.notes.map(({ startSeconds, endSeconds, midi }) => ({
      startSeconds: startSeconds - origin / SAMPLE_RATE_HZ,
      endSeconds: endSeconds - origin / SAMPLE_RATE_HZ,
      midi: midi + semitones,
    })),
  )
let heard: VoiceAnalysis
beforeAll(() => {
  heard = analyseVoice(lead)
})
const make = (notes: readonly PartNote[], seed = 1, throatSemitones = 0) => makeVoice(lead, { ...heard, sung: readNotes(heard), notes, seed, throatSemitones })
const level = (sound: Mono, from: number, to: number) =>
  10 *
  Math.log10(sound.subarray(from * SAMPLE_RATE_HZ, to * SAMPLE_RATE_HZ).reduce((sum, sample) => sum + sample * sample, 1e-12) / ((to - from) * SAMPLE_RATE_HZ))

describe('a made voice', () => {
  test.each([
    ['a third above', 4],
    ['a third below', -3],
    ['an octave below', -12],
    ['a fifth above', 7],
  ])('%s lies on the notes of its part', (_, semitones) => {
    const notes = written(semitones)
    const { f0Hz, hopSeconds } = trackPitch(make(notes))
    const off = notes.flatMap(({ startSeconds, endSeconds, midi }) => {
      const held = f0Hz.slice(Math.round((startSeconds + 0.1) / hopSeconds), Math.round((endSeconds - 0.05) / hopSeconds)).filter(hz => hz > 0)
      return held.length > 8 ? [Math.abs(quantile(held.map(centsOf), 0.5) - 100 * midi)] : []
    })
    expect(off.length).toBeGreaterThan(notes.length / 2)
    expect(quantile(Float32Array.from(off), 0.5)).toBeLessThan(5)
    expect(quantile(Float32Array.from(off), 0.9)).toBeLessThan(12)
  })
  test('is as long as the lead, begins with it, and rests where its part does', () => {
    const made = make(written(4, 1))
    const second = lines[1].notes
    const [from, to] = [second[0], second.at(-1)!].map((note, i) => (i === 0 ? note.startSeconds : note.endSeconds) - origin / SAMPLE_RATE_HZ)
    expect(made).toHaveLength(lead.length)
    expect(level(made, from, to)).toBeLessThan(-90)
    expect(level(lead, from, to)).toBeGreaterThan(-40)
    const notes = written(4, 1)
    expect(Math.abs(level(made, notes[0].startSeconds, notes.at(-1)!.endSeconds) - level(lead, notes[0].startSeconds, notes.at(-1)!.endSeconds))).toBeLessThan(
      3,
    )
  })
  test('as a double in unison it is no copy of the lead: both together are as loud as two voices, and neither louder nor hollow', () => {
    const double = make(written(0), 101)
    expect(findCopy(phasesOf(lead), phasesOf(double))).toBeNull()
    const power = (sound: Mono) => sound.reduce((sum, sample) => sum + sample * sample, 0)
    const together = power(lead.map((sample, i) => sample + double[i]))
    expect(Math.abs(10 * Math.log10(together / (power(lead) + power(double))))).toBeLessThan(0.6)
  })
  test('is the same from the same seed, and another singer from another: two of them are no copies', () => {
    const notes = written(4)
    const [one, again, other] = [make(notes), make(notes), make(notes, 2)]
    expect(again).toEqual(one)
    let [cross, a, b] = [0, 0, 0]
    one.forEach((sample, i) => {
      cross += sample * other[i]
      a += sample * sample
      b += other[i] * other[i]
    })
    expect(Math.abs(cross) / Math.sqrt(a * b)).toBeLessThan(0.8)
  })
  test('of no part is silence', () => {
    expect(make([]).every(sample => sample === 0)).toBe(true)
  })
})
