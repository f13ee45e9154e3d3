import { describe, expect, test } from '@jest/globals'
import { peakOf, rmsOf } from '../audio/decibels'
import { decibelsBetween } from '../audio/signals.test-kit'
import { frameOfBar } from '../beat/grid'
import { openSong } from '../song/open'
import { placedLines } from '../song/select'
import { DEMO_GRID, makeDemoBeat } from './demo-beat'
import { makeDemoSheet } from './demo-song'
import { syllablesOf } from './phonemes'
import { scoreOfSheet, type ScoreNote } from './score'
import { NO_FAULTS, plainFaults, sing, USUAL_FAULTS } from './sing'

const sheet = makeDemoSheet(5_000_000)
const score = scoreOfSheet(sheet).slice(0, 4)
const frames = Math.ceil((score[3].notes.at(-1)!.endSeconds + 1) * 48_000)

/** The pitch of a stretch in cents against a note: the shift at which its first harmonics hold most energy. */
function centsOff(signal: Float32Array, note: ScoreNote, fromSeconds: number, toSeconds: number): number {
  const from = Math.round(fromSeconds * 48_000)
  const to = Math.round(toSeconds * 48_000)
  const power = (cents: number) => {
    const hz = 440 * 2 ** ((note.midi - 69 + cents / 100) / 12)
    let total = 0
    for (let harmonic = 1; harmonic <= 4; harmonic++) {
      let re = 0
      let im = 0
      for (let i = from; i < to; i++) {
        const window = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i - from)) / (to - from))
        const angle = (2 * Math.PI * harmonic * hz * i) / 48_000
        re += window * signal[i] * Math.cos(angle)
        im += window * signal[i] * Math.sin(angle)
      }
      total += Math.hypot(re, im)
    }
    return total
  }
  let best = 0
  let step = 16
  for (let round = 0; round < 6; round++, step /= 2.5) {
    const candidates = [-4, -3, -2, -1, 0, 1, 2, 3, 4].map(k => best + k * step)
    const powers = candidates.map(power)
    best = candidates[powers.indexOf(Math.max(...powers))]
  }
  return best
}

describe('the practice singer', () => {
  test('without faults every held note is what the score says, within 3 cents', () => {
    const voice = sing({ score, frames, seed: 7, take: 1, faults: NO_FAULTS })
    // The first half of each vowel: a diphthong's moving resonances turn the harmonics' phase, which no spectrum can tell from pitch.
    const held = score.flatMap(line => line.notes).filter(note => note.endSeconds - note.startSeconds > 0.6)
    expect(held.length).toBeGreaterThan(8)
    const off = held.slice(0, 12).map(note => centsOff(voice, note, note.startSeconds + 0.13, note.startSeconds + 0.52 * (note.endSeconds - note.startSeconds)))
    expect(Math.max(...off.map(Math.abs))).toBeLessThan(3)
  })

  test('the same seed and pass give the same samples; another pass gives others, 16 bits deep', () => {
    const sung = (take: number) => sing({ score: score.slice(0, 1), frames: 800_000, seed: 7, take })
    expect(decibelsBetween(sung(1), sung(1))).toBe(-Infinity)
    expect(decibelsBetween(sung(1), sung(2))).toBeGreaterThan(-20)
    expect(
      sung(1)
        .slice(600_000, 600_100)
        .every(sample => Number.isInteger(sample * 32_768)),
    ).toBe(true)
  })

  test('some lines are plainly flat, late or clipped, and can be told in advance', () => {
    const take = [1, 2, 3, 4, 5, 6].find(candidate => plainFaults(4, 7, candidate).includes('flat'))!
    const line = plainFaults(4, 7, take).indexOf('flat')
    const voice = sing({
      score,
      frames,
      seed: 7,
      take,
      faults: { ...USUAL_FAULTS, pitchSpreadCents: 0, timingSpreadSeconds: 0, vibratoCents: 0, scoops: false },
    })
    const note = score[line].notes.find(candidate => candidate.endSeconds - candidate.startSeconds > 0.45)!
    expect(centsOff(voice, note, note.startSeconds + 0.16, note.endSeconds - 0.14)).toBeLessThan(-50)
    const clipping = [1, 2, 3, 4, 5, 6, 7, 8].find(candidate => plainFaults(4, 7, candidate).includes('clipped'))!
    expect(peakOf(sing({ score, frames, seed: 7, take: clipping }))).toBeGreaterThan(0.999)
  })

  test('lines end in silence but for the breath, so that there is somewhere to cut', () => {
    const voice = sing({ score, frames, seed: 7, take: 1, faults: NO_FAULTS })
    const [first, second] = score
    const level = (fromSeconds: number, toSeconds: number) => 20 * Math.log10(rmsOf(voice, fromSeconds * 48_000, toSeconds * 48_000) + 1e-9)
    const sung = level(first.notes[0].startSeconds + 0.1, first.notes[0].startSeconds + 0.4)
    const gap = level(second.startSeconds - 0.16, second.startSeconds - 0.1)
    expect(sung - gap).toBeGreaterThan(20)
  })

  test('words are sung by the syllable', () => {
    const counts = (words: string) => syllablesOf(words).length
    expect([counts('Slow ferry, carry the lights'), counts('one more coat'), counts('harbour'), counts('')]).toEqual([7, 3, 2, 6])
  })
})

describe('the demo song', () => {
  test('its sheet is a valid song of two verses and two hooks, sixteen lines', () => {
    expect(openSong(JSON.parse(JSON.stringify(sheet))).kind).toBe('current')
    expect(placedLines(sheet)).toHaveLength(16)
    expect(sheet.sections.map(section => section.name)).toEqual(['Intro', 'Verse 1', 'Hook 1', 'Verse 2', 'Hook 2', 'Outro'].slice(0, sheet.sections.length))
  })
  test('its beat lasts between 90 and 120 s, never clips, and begins before bar one', () => {
    const [left, right] = makeDemoBeat()
    expect(left.length / 48_000).toBeGreaterThan(90)
    expect(left.length / 48_000).toBeLessThan(120)
    expect(Math.max(peakOf(left), peakOf(right))).toBeLessThan(0.95)
    expect(rmsOf(left, 0, frameOfBar(DEMO_GRID, 1))).toBeGreaterThan(0.001)
  })
})
