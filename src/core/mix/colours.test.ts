import { describe, expect, test } from '@jest/globals'
import { peakOf } from '../audio/decibels'
import type { Mono } from '../audio/frames'
import { decibelsBetween } from '../audio/signals.test-kit'
import { usualSettings } from '../effects/catalogue'
import { setLineWords } from '../song/lines'
import type { RecipeStep, StepId } from '../song/mix-schema'
import type { Song } from '../song/schema'
import { placedLines, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { addColour, coloursSung, removeColours, setColour, type ColourPlace } from './colours'
import { setBeatMix } from './commands'
import { bare, offline, sung, wholeWindow } from './mix.test-kit'
import { stepsOfColour } from './named-recipes'
import { planMix } from './plan'
import { MixRenderer } from './renderer'
import { heardAt } from './throws.test-kit'

const [FIRST, SECOND] = [lineRange(0), lineRange(1)]
const WORDS = [0, 1, 1.5, 2].map(seconds => FIRST.startFrame + 14_400 + seconds * 48_000)
const PHRASE_END = FIRST.startFrame + 132_000
/** The usual fade, and what a filter needs to come to rest. */
const FADE = 1_440
const SETTLED = 6_000

const base = (() => {
  const song = bare(setBeatMix(sung(), { muted: true }))
  const worded = setLineWords(song, { lineId: placedLines(song)[0].line.id, words: 'carry the lights home' })
  return heardAt(worded, [
    { take: 0, phrase: [WORDS[0], PHRASE_END], onsets: WORDS },
    { take: 1, phrase: [SECOND.startFrame + 7_200, SECOND.startFrame + 96_000], onsets: [SECOND.startFrame + 7_200] },
  ])
})()
const lead = layerOf(base, 'Lead')
const lineId = placedLines(base)[0].line.id
const third: ColourPlace = { lineId, words: { from: 2, to: 2 } }

/** The takes are tones of 330 and 440 Hz: a low cut of 24 dB an octave at 400 Hz lowers the first by about 8 dB. */
const step = (kind: RecipeStep['kind'], settings: Record<string, number>) =>
  ({ id: makeId() as StepId, kind, enabled: true, ...usualSettings(kind), ...settings }) as RecipeStep
const CUT = [step('low-cut', { cutoffHz: 400, slopeDecibels: 24 })]
const coloured = (on: ColourPlace = third, steps: readonly RecipeStep[] = CUT, song = base) =>
  addColour(song, { layerId: lead, on, name: 'thin', steps, makeId })

const HEARD = { startFrame: FIRST.startFrame - 4_800, endFrame: SECOND.endFrame + 24_000 }
const play = async (song: Song) => (await offline(planMix(song), HEARD))[0]
const part = (plane: Mono, from: number, to: number) => plane.subarray(from - HEARD.startFrame, to - HEARD.startFrame)
const level = (plane: Mono, from: number, to: number) => 20 * Math.log10(peakOf(part(plane, from, to)))

describe('a colour', () => {
  test('lies on its word, from its beginning to its end, and leaves all else as it was', async () => {
    const [plain, thin] = [await play(base), await play(coloured())]
    const inside = [WORDS[2] + SETTLED, WORDS[3] - 240] as const
    // Butterworth of fourth order at 330 Hz under a cutoff of 400 Hz.
    expect(level(thin, ...inside) - level(plain, ...inside)).toBeCloseTo(-10 * Math.log10(1 + (400 / 330) ** 8), 1)
    expect(decibelsBetween(part(thin, HEARD.startFrame, WORDS[2] - FADE - 128), part(plain, HEARD.startFrame, WORDS[2] - FADE - 128))).toBe(-Infinity)
    const after = [WORDS[3] + FADE + SETTLED, HEARD.endFrame] as const
    expect(decibelsBetween(part(thin, ...after), part(plain, ...after))).toBeLessThan(-100)
  })

  test.each([
    ['a line', { lineId, words: null }, [WORDS[0], PHRASE_END]],
    ['a section', { sectionId: base.sections.find(({ lines }) => lines.length > 0)!.id }, [WORDS[0], SECOND.startFrame + 90_000]],
  ] as const)('lies on %s', async (_, on, [from, to]) => {
    const [plain, thin] = [await play(base), await play(coloured(on))]
    for (const at of [from + SETTLED, (from + to) / 2, to - 2_400])
      if (at < SECOND.startFrame) expect(level(thin, at, at + 2_000) - level(plain, at, at + 2_000)).toBeLessThan(-6)
  })

  test('begins and ends without a step', async () => {
    const steepest = (sound: Mono) => sound.reduce((most, x, i) => (i === 0 ? most : Math.max(most, Math.abs(x - sound[i - 1]))), 0)
    const [plain, thin] = [await play(base), await play(coloured(third, stepsOfColour('radio', makeId)))]
    const round = [WORDS[2] - 4_800, WORDS[3] + 9_600] as const
    // A radio is louder: its own steady step counts.
    const own = Math.max(steepest(part(thin, WORDS[2] + SETTLED, WORDS[3] - 1_000)), steepest(part(plain, ...round)))
    expect(steepest(part(thin, ...round))).toBeLessThan(1.5 * own)
  })

  test('of an amount of nothing, or with its steps off, is not there at all', async () => {
    const plain = await play(base)
    const song = coloured()
    const [{ id: colourId }] = requireLayer(song, lead).colours
    expect(decibelsBetween(await play(setColour(song, { layerId: lead, colourId, amount: 0 })), plain)).toBe(-Infinity)
    const off = CUT.map(entry => ({ ...entry, enabled: false }))
    expect(decibelsBetween(await play(coloured(third, off)), plain)).toBe(-Infinity)
  })

  test('that comes late holds the rest back by as much: the voice stays in its place', async () => {
    const late = await play(coloured(third, [step('saturation', { driveDecibels: 12 }), step('limiter', { ceilingDbfs: -12 })]))
    const plain = await play(base)
    for (const [from, to] of [
      [FIRST.startFrame + 9_600, WORDS[2] - FADE - 256],
      [WORDS[3] + FADE + SETTLED, FIRST.endFrame - 2_000],
    ])
      expect(decibelsBetween(part(late, from, to), part(plain, from, to))).toBeLessThan(-100)
    expect(level(late, WORDS[2] + SETTLED, WORDS[3] - 2_000)).toBeLessThan(-12 + 0.1)
  })

  test('two of them over each other share the sound', async () => {
    const twice = coloured(third, CUT, coloured())
    const [once, both] = [await play(coloured()), await play(twice)]
    const inside = [WORDS[2] + SETTLED, WORDS[3] - 240] as const
    expect(level(both, ...inside) - level(once, ...inside)).toBeCloseTo(0, 1)
  })

  test('goes with its word, and waits for one that is gone', () => {
    const at = (song: Song) => coloursSung(song, requireLayer(song, lead)).map(entry => entry.at.startFrame)
    expect(at(coloured())).toEqual([WORDS[2]])
    expect(at(setLineWords(coloured(), { lineId, words: 'carry me' }))).toEqual([])
    const song = coloured()
    const [{ id }] = requireLayer(song, lead).colours
    expect(requireLayer(removeColours(song, { layerId: lead, colourIds: [id] }), lead).colours).toEqual([])
  })
})

test('a colour that comes and goes while its word sounds fades in and out; then the sound is what it was', () => {
  const renderer = new MixRenderer(planMix(base), wholeWindow())
  let at = WORDS[2] + 2_400
  renderer.seek(at)
  const play = (frames: number) => {
    const sound = new Float32Array(Math.floor(frames / 128) * 128)
    for (let i = 0; i < sound.length; i += 128, at += 128) renderer.render(at, sound.subarray(i, i + 128), new Float32Array(128))
    return sound
  }
  const steepest = (sound: Mono) => sound.reduce((most, x, i) => (i === 0 ? most : Math.max(most, Math.abs(x - sound[i - 1]))), 0)
  const before = play(4_800)
  renderer.setPlan(planMix(coloured()))
  const coming = play(4_800)
  renderer.setPlan(planMix(base))
  const going = play(9_600)
  const after = play(1_280)
  const all = Float32Array.of(...before, ...coming, ...going)
  expect(steepest(all)).toBeLessThan(1.5 * steepest(before))
  expect(peakOf(coming.subarray(3_000))).toBeLessThan(0.6 * peakOf(before))
  expect(peakOf(after)).toBeCloseTo(peakOf(before), 2)
})
