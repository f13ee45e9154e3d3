import { describe, expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { decibelsBetween } from '../audio/signals.test-kit'
import { bandPass, filtered } from '../effects/biquad'
import { removeLayer } from '../layers/commands'
import { findProblem } from '../song/check'
import type { SpaceId } from '../song/mix-schema'
import { openSong } from '../song/open'
import type { AssetId, Song } from '../song/schema'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { setBeatMix, setBeatRoom, setLayerMix, setVocalGain } from './commands'
import type { View } from './heard'
import { keepMix, mixValuesOf, nameMix, removeMix, takeMix } from './kept-mixes'
import { bare, offline, sung } from './mix.test-kit'
import { planMix } from './plan'
import { addStep, recipeAt, setStep, type RecipePlace } from './recipes'
import { setReference } from './reference'
import { setRidePoint } from './rides'
import { soundFacts } from './sound-facts'
import { addSpace, removeSpace, setSend } from './spaces'
import { addThrow } from './throws'

const FIRST = lineRange(0)
const INSIDE = { startFrame: FIRST.startFrame + 9_600, endFrame: FIRST.startFrame + 57_600 }
const base = setBeatMix(bare(sung()), { muted: true })
const lead = layerOf(base, 'Lead')
const play = async (song: Song, view?: View) => (await offline(planMix(song, view), INSIDE))[0]

/** Mixed in every way that there is. */
function mixed(song: Song): Song {
  let now = setLayerMix(song, { layerId: lead, gainDecibels: -7, pan: -0.4 })
  now = addSpace(now, { kind: 'hall', name: 'Hall', makeId: () => 'hall' })
  now = setSend(now, { layerId: lead, spaceId: 'hall' as SpaceId, gainDecibels: -9 })
  now = setRidePoint(now, { layerId: lead, of: { kind: 'level' }, frame: FIRST.startFrame, value: -3 })
  now = addStep(now, { place: { kind: 'role', role: 'lead' }, kind: 'air', makeId })
  const line = now.sections.flatMap(section => section.lines)[0]
  now = addThrow(now, { layerId: lead, lineId: line.id, words: null, spaceId: 'hall' as SpaceId, makeId })
  return setBeatRoom(setVocalGain(setBeatMix(now, { gainDecibels: -8 }), { gainDecibels: 2 }), { dipDecibels: 4 })
}

describe('a mix under a name', () => {
  const kept = keepMix(base, { name: 'Evening', makeId })
  const { id } = kept.mixes[0]
  const other = mixed(kept)

  test('gives back every value of it, and what was mixed since can be kept under another name in the same step', () => {
    const back = takeMix(other, { mixId: id, keepAs: 'Night', makeId })
    expect(mixValuesOf(back)).toEqual(mixValuesOf(base))
    expect(back.mixes.map(({ name }) => name)).toEqual(['Evening', 'Night'])
    expect(mixValuesOf(takeMix(back, { mixId: back.mixes[1].id, makeId }))).toEqual(mixValuesOf(other))
    expect(findProblem(back, null)).toBeNull()
  })

  test('is heard as it was, beside the one that is worked on', async () => {
    const quiet = (song: Song) => setBeatMix(song, { muted: true })
    expect(decibelsBetween(await play(quiet(other), { kind: 'mix', mixId: id, gainDecibels: 0 }), await play(base))).toBe(-Infinity)
    const [plain, louder] = [await play(base), await play(quiet(other), { kind: 'mix', mixId: id, gainDecibels: -6 })]
    expect(
      decibelsBetween(
        louder,
        plain.map(x => x * 10 ** (-6 / 20)),
      ),
    ).toBeLessThan(-100)
  })

  test('survives being written and read, and layers and spaces that came or went since', () => {
    const opened = openSong(JSON.parse(JSON.stringify(other)))
    expect(opened).toEqual({ kind: 'current', song: other, mends: [] })
    const fewer = removeLayer(other, { layerId: layerOf(other, 'High 1') })
    expect(findProblem(takeMix(fewer, { mixId: id, makeId }), null)).toBeNull()
    const roomier = addSpace(kept, { kind: 'plate', name: 'New', makeId: () => 'new' })
    const sending = setSend(roomier, { layerId: layerOf(roomier, 'High 2'), spaceId: 'new' as SpaceId, gainDecibels: 0 })
    const taken = takeMix(sending, { mixId: id, makeId })
    expect(findProblem(taken, null)).toBeNull()
    expect(taken.spaces.some(space => space.id === 'new')).toBe(false)
    const hallGone = removeSpace(keepMix(mixed(base), { name: 'x', makeId }), { spaceId: 'hall' as SpaceId })
    expect(findProblem(takeMix(hallGone, { mixId: hallGone.mixes[0].id, makeId }), null)).toBeNull()
  })

  test('is renamed and removed', () => {
    expect(nameMix(kept, { mixId: id, name: '  Dusk ' }).mixes[0].name).toBe('Dusk')
    expect(removeMix(other, { mixId: id }).mixes).toEqual([])
    expect(() => takeMix(base, { mixId: id, makeId })).toThrow(RangeError)
  })
})

describe('before and after', () => {
  const PLACES: RecipePlace[] = [{ kind: 'layer', layerId: lead }, { kind: 'role', role: 'lead' }, { kind: 'all' }]
  test.each(PLACES)('one step of the recipe of $kind is left out, or all of it, and no other', async place => {
    let song = base
    for (const kind of ['low-cut', 'air'] as const) song = addStep(song, { place, kind, makeId })
    const [cut, air] = recipeAt(song, place).steps
    song = setStep(song, { place, stepId: cut.id, settings: { cutoffHz: 400, slopeDecibels: 24 } })
    const without = await play(song, { kind: 'without-recipe', place, stepId: cut.id, gainDecibels: 0 })
    expect(decibelsBetween(without, await play(setStep(song, { place, stepId: cut.id, enabled: false })))).toBe(-Infinity)
    expect(decibelsBetween(await play(song, { kind: 'without-recipe', place, gainDecibels: 0 }), await play(base))).toBe(-Infinity)
    expect(decibelsBetween(without, await play(setStep(song, { place, stepId: air.id, enabled: false })))).toBeGreaterThan(-40)
  })
})

describe('a second opinion', () => {
  const reference = { assetId: 'beat' as AssetId, name: 'other song.wav', frames: 20 * 48_000 }
  test('plays by itself, as it is, at the loudness that is asked for', async () => {
    const song = setReference(mixed(base), { reference })
    const [heard, beat] = [
      await play(song, { kind: 'reference', gainDecibels: -6 }),
      await play({ ...setBeatMix(base, { gainDecibels: -6, muted: false }), layers: [] }),
    ]
    expect(decibelsBetween(heard, beat)).toBe(-Infinity)
    expect(decibelsBetween(await play(base, { kind: 'reference', gainDecibels: 0 }), await play(base))).toBe(-Infinity)
  })

  test('tells tone, width, loudness and peaks as they are', () => {
    const random = makeRandom(5)
    const noise = Float32Array.from({ length: 5 * 48_000 }, () => 0.2 * (2 * random() - 1))
    const facts = soundFacts([noise, noise])
    // White noise has as much power in every hertz: a third of an octave more of it is a decibel more.
    for (let i = 10; i + 1 < facts.tone.length; i++) expect(facts.tone[i + 1].decibels - facts.tone[i].decibels).toBeCloseTo(1, 0)
    expect(facts.width).toEqual({ low: 0, middle: 0, high: 0 })
    expect(facts.truePeakDbtp).toBeGreaterThan(-14)
    const high = filtered(noise, bandPass(9_000, 2))
    const wide = soundFacts([Float32Array.from(noise, (x, i) => x + 3 * high[i]), Float32Array.from(noise, (x, i) => x - 3 * high[i])])
    expect(wide.width.high).toBeGreaterThan(0.5)
    expect(wide.width.low).toBeLessThan(0.05)
  })
})
