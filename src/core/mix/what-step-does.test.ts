import { describe, expect, test } from '@jest/globals'
import { setBusGain } from './commands'
import { bare, store, sung } from './mix.test-kit'
import { addStep, recipeAt, setStep, type RecipePlace, type StepKind } from './recipes'
import { lineRange, layerOf, makeId } from '../song/song.test-kit'
import { NO_PRINTS } from '../prints/jobs'
import type { Song } from '../song/schema'
import { whatStepDoes } from './what-step-does'

const base = bare(sung())
const lead = layerOf(base, 'Lead')
const PLACES: RecipePlace[] = [{ kind: 'layer', layerId: lead }, { kind: 'role', role: 'lead' }, { kind: 'all' }]
/** The first line is a steady tone of 330 Hz at -10.5 dBFS on the lead, in the middle. */
const INSIDE = { startFrame: lineRange(0).startFrame + 9_600, endFrame: lineRange(0).startFrame + 57_600 }

function withStep(song: Song, place: RecipePlace, kind: StepKind, settings: Record<string, number>): Song {
  const added = addStep(song, { place, kind, makeId })
  return setStep(added, { place, stepId: recipeAt(added, place).steps.at(-1)!.id, settings })
}
const read = (song: Song, place: RecipePlace, at: number, range = INSIDE) =>
  whatStepDoes(song, { place, stepId: recipeAt(song, place).steps[at]!.id, range }, { store, prints: NO_PRINTS })

describe('what a step does', () => {
  test.each(PLACES)('in the recipe of $kind, to a steady tone, is what its curve says, whatever comes after it', async place => {
    const cut = { lowBellHz: 330, lowBellDecibels: -12 }
    const shelved = withStep(withStep(base, place, 'equaliser', cut), place, 'air', { gainDecibels: 12 })
    const song = setBusGain(shelved, { role: 'lead', gainDecibels: -20 })
    const { changeDecibels, tone } = (await read(song, place, 0))!
    expect(changeDecibels).toHaveLength(50)
    // In the middle of a bell all of it is taken.
    for (const change of changeDecibels.slice(2)) expect(change).toBeCloseTo(-12, 0)
    const band = tone.find(({ hz }) => Math.abs(hz - 316) < 10)!
    expect(band.before).toBeCloseTo(0, 0)
    expect(band.after - band.before).toBeCloseTo(-12, 0)
  })

  test('of a compressor is its reduction, with what comes before it taken into account', async () => {
    const place = PLACES[0]!
    const pressed = { thresholdDecibels: -30, ratio: 4, makeupDecibels: 0, kneeDecibels: 0, attackSeconds: 0.001 }
    const only = (await read(withStep(base, place, 'compressor', pressed), place, 0))!
    // The tone peaks at -10.5 dBFS: 19.5 dB over, of which three quarters go.
    expect(only.changeDecibels[30]).toBeCloseTo(-14.6, 0)
    const after = withStep(withStep(base, place, 'equaliser', { lowBellHz: 330, lowBellDecibels: -12 }), place, 'compressor', pressed)
    expect((await read(after, place, 1))!.changeDecibels[30]).toBeCloseTo(-5.6, 0)
  })

  test('is told of one that is off, and of nothing where nothing sounds', async () => {
    const place = PLACES[2]!
    const cut = withStep(base, place, 'low-cut', { cutoffHz: 400, slopeDecibels: 24 })
    // Butterworth's: 24 dB an octave.
    const off = setStep(cut, { place, stepId: recipeAt(cut, place).steps[0]!.id, enabled: false })
    expect((await read(off, place, 0))!.changeDecibels[30]).toBeCloseTo(-10 * Math.log10(1 + (400 / 330) ** 8), 0)
    expect(await read(cut, place, 0, { startFrame: 0, endFrame: 24_000 })).toBeNull()
    await expect(whatStepDoes(base, { place, stepId: 'none' as never, range: INSIDE }, { store, prints: NO_PRINTS })).rejects.toThrow(RangeError)
  })
})
