/** What voices and beat go through together. */
import { describe, expect, test } from '@jest/globals'
import { BLOCK_FRAMES, type Planar } from '../audio/frames'
import { decibelsBetween } from '../audio/signals.test-kit'
import { planPart, planStems, type Part } from '../deliver/parts'
import { StereoCompressor, USUAL_COMPRESSOR } from '../effects/compressor'
import type { Song } from '../song/schema'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { PLATE_ID } from '../song/usual-mix'
import { setBeatMix, setLayerMix } from './commands'
import { offline, sung } from './mix.test-kit'
import { planMix } from './plan'
import { stepsOfNamed, WHOLE_NAMES } from './named-recipes'
import { addStep, layRecipe, recipeAt, setRecipe, setStep, type StepKind } from './recipes'
import { setRide } from './rides'
import { setSend } from './spaces'
import { addThrow } from './throws'
import { placedLines } from '../song/select'

const RANGE = { startFrame: 8 * 48_000, endFrame: 17 * 48_000 }
const WHOLE = { kind: 'mix' } as const
const base = sung()
const lead = layerOf(base, 'Lead')

/** A loud lead over the beat, well under the ceiling, with what is sent into the plate. */
const mixed = (): Song => setSend(setLayerMix(base, { layerId: lead, gainDecibels: -3 }), { layerId: lead, spaceId: PLATE_ID, gainDecibels: -6 })
function through(song: Song, kind: StepKind, settings: Record<string, number> = {}): Song {
  const added = addStep(song, { place: WHOLE, kind, makeId })
  return setStep(added, { place: WHOLE, stepId: recipeAt(added, WHOLE).steps.at(-1)!.id, settings })
}
const render = (song: Song, part: Part = { kind: 'mix' }) => offline(planPart(song, part), RANGE)
const sum = (planes: readonly Planar[]) => planes[0][0].map((_, i) => planes.reduce((total, part) => total + part[0][i], 0))

describe('the whole mix', () => {
  test('is pressed as one: by what voices and beat are together', async () => {
    const song = mixed()
    const settings = { thresholdDecibels: -24, ratio: 3, attackSeconds: 0.01, releaseSeconds: 0.1, makeupDecibels: 2 }
    const bare = await render(song)
    const pressed = await render(through(song, 'compressor', settings))
    const compressor = new StereoCompressor({ ...USUAL_COMPRESSOR, ...settings })
    const expected = bare.map(plane => plane.slice())
    for (let at = 0; at + BLOCK_FRAMES <= expected[0].length; at += BLOCK_FRAMES)
      compressor.process(expected[0].subarray(at, at + BLOCK_FRAMES), expected[1].subarray(at, at + BLOCK_FRAMES))
    // Both have heard the first second otherwise: the one what lies before the range, the other nothing.
    const later = (plane: Float32Array<ArrayBuffer>) => plane.slice(48_000, expected[0].length - BLOCK_FRAMES)
    expect(decibelsBetween(later(pressed[0]), later(expected[0]))).toBeLessThan(-100)
    expect(decibelsBetween(pressed[0], bare[0])).toBeGreaterThan(-20)
  })

  test('stays in its place, with rides, echoes and throws, whatever it goes through takes', async () => {
    let song = mixed()
    song = setRide(song, {
      layerId: lead,
      of: { kind: 'level' },
      points: [9, 9.5, 10, 10.5].map((second, i) => ({ frame: second * 48_000, value: -6 * (i % 2) })),
    })
    song = addThrow(song, { layerId: lead, lineId: placedLines(song)[0].line.id, spaceId: 'echo' as typeof PLATE_ID, words: null, tail: 'ends', makeId })
    // Two limiters that nothing reaches only hold back.
    const late = through(through(song, 'limiter', { ceilingDbfs: 0 }), 'limiter', { ceilingDbfs: 0 })
    const [now, then] = [await render(song), await render(late)]
    for (const side of [0, 1]) expect(decibelsBetween(then[side], now[side])).toBeLessThan(-90)
  })

  test('is no part of voices, beat or stems: they sum to the mix as it is before it', async () => {
    const song = through(through(mixed(), 'compressor', { thresholdDecibels: -40, ratio: 4 }), 'saturation', { driveDecibels: 12 })
    const before = await render(setRecipe(song, { place: WHOLE, enabled: false }))
    const halves = await Promise.all((['vocals', 'beat'] as const).map(kind => render(song, { kind })))
    expect(decibelsBetween(sum(halves), before[0])).toBeLessThan(-100)
    const stems = await Promise.all(([{ kind: 'beat' }, ...planStems(song, 'layer')] as Part[]).map(part => render(song, part)))
    expect(decibelsBetween(sum(stems), before[0])).toBeLessThan(-100)
    expect(decibelsBetween((await render(song))[0], before[0])).toBeGreaterThan(-30)
  })

  test('what is looked at by itself does not go through it: one voice, a take, the other song', () => {
    const song = through(mixed(), 'saturation')
    const views = [
      { kind: 'only', beat: true, layerIds: [] },
      { kind: 'audition', layerId: lead, takeId: song.takes[0].id, with: 'beat', gainDecibels: 0 },
      { kind: 'without-recipe', gainDecibels: 0 },
      { kind: 'without-recipe', gainDecibels: 0, place: WHOLE },
      { kind: 'booth', layerId: lead, hear: 'stack', guide: 'off', recorded: lineRange(0), decibels: { beat: 0, comp: 0, others: 0, guide: 0 } },
    ] as const
    expect(views.map(view => planMix(song, view).output.steps)).toEqual([[], [], [], [], []])
    expect(planMix(song).output.steps).toHaveLength(1)
  })
})

test.each(WHOLE_NAMES)('the recipe "%s" holds a full mix together by three decibels at most and leaves it as loud within two', async name => {
  const loud = setBeatMix(setLayerMix(base, { layerId: lead, gainDecibels: 4 }), { gainDecibels: 10 })
  const [before, after] = [await render(loud), await render(layRecipe(loud, { place: WHOLE, steps: stepsOfNamed(name, null, makeId) }))]
  const levels = ([plane]: Planar) =>
    Array.from({ length: 80 }, (_, i) => 10 * Math.log10(plane.subarray(i * 4_800, (i + 1) * 4_800).reduce((sum, x) => sum + x * x, 0) / 4_800))
  const changes = levels(after).map((level, i) => level - levels(before)[i])
  expect(Math.max(...changes)).toBeLessThan(2)
  expect(Math.min(...changes)).toBeGreaterThan(-3)
})
