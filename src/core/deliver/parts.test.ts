import { describe, expect, test } from '@jest/globals'
import { peakOf } from '../audio/decibels'
import { decibelsBetween } from '../audio/signals.test-kit'
import type { Planar } from '../audio/frames'
import { pickTake } from '../comp/picks'
import { bare, offline, sounds, store, sung } from '../mix/mix.test-kit'
import { setBeatMix, setLayerMix, setVocalGain } from '../mix/commands'
import { addStep, setStep } from '../mix/recipes'
import { setSend, setSpace } from '../mix/spaces'
import type { Song } from '../song/schema'
import { PLATE_ID } from '../song/usual-mix'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { withClick } from './click-sound'
import { layersHeard, nameOfPart, planPart, planStems, type Part } from './parts'

const RANGE = { startFrame: 8 * 48_000, endFrame: 17 * 48_000 }
const render = (song: Song, part: Part) => offline(planPart(song, part), RANGE)
const sum = (planes: Planar[]): Planar => planes[0].map((plane, c) => plane.map((_, i) => planes.reduce((total, part) => total + part[c][i], 0)))

/** Lead, both doubles and a high harmony sing the first two lines, soft enough for the ceiling and loud enough for the compressor. */
function stacked(): Song {
  let song = setBeatMix(sung(), { gainDecibels: -6 })
  const places: Record<string, number> = { 'Double left': -1, 'Double right': 0.8, 'High 1': -0.3 }
  for (const [i, [name, pan]] of Object.entries(places).entries()) {
    const layerId = layerOf(song, name)
    song = pickTake(song, { layerId, takeId: song.takes[i % 2].id, ...lineRange(i % 2), makeId, insist: true })
    song = setSend(setLayerMix(song, { layerId, pan, gainDecibels: -4 - i }), { layerId, spaceId: PLATE_ID, gainDecibels: -8 })
  }
  return song
}

test('vocals and beat sum to the mix while the ceiling is not touched', async () => {
  const [mix, ...parts] = await Promise.all((['mix', 'vocals', 'beat'] as const).map(kind => render(stacked(), { kind })))
  expect(peakOf(parts[0][0])).toBeGreaterThan(0.1)
  expect(decibelsBetween(sum(parts)[0], mix[0])).toBeLessThan(-100)
})

describe('stems', () => {
  test.each(['layer', 'role'] as const)('one a %s and the beat sum to the mix, though what all voices share turns them down', async by => {
    const song = setVocalGain(stacked(), { gainDecibels: 1.5 })
    const stems = planStems(song, by)
    expect(stems).toHaveLength(by === 'layer' ? 4 : 3)
    const [mix, beat, ...voices] = await Promise.all(([{ kind: 'mix' }, { kind: 'beat' }, ...stems] as Part[]).map(part => render(song, part)))
    for (const voice of voices) expect(peakOf(voice[0])).toBeGreaterThan(0.01)
    for (const side of [0, 1]) expect(decibelsBetween(sum([beat, ...voices])[side], mix[side])).toBeLessThan(-100)
    // Alone through its own compressor each would be louder.
    const alone = await render({ ...song, layers: song.layers.map((layer, i) => ({ ...layer, muted: i > 0 })) }, { kind: 'vocals' })
    expect(decibelsBetween(alone[0], voices[0][0])).toBeGreaterThan(-40)
  })

  test('sum as well where a layer, a role and all voices are bent, pressed and gated, and two layers share a pressed bus', async () => {
    let song = stacked()
    const places = [{ kind: 'layer', layerId: layerOf(song, 'Double left') }, { kind: 'role', role: 'double' }, { kind: 'all' }] as const
    for (const [i, place] of places.entries()) song = addStep(song, { place, kind: (['saturation', 'compressor', 'gate'] as const)[i], makeId })
    const press = song.buses.find(bus => bus.role === 'double')!.recipe.steps.at(-1)!
    song = setStep(song, { place: places[1], stepId: press.id, settings: { thresholdDecibels: -45, ratio: 8, makeupDecibels: 9 } })
    const stems = planStems(song, 'layer')
    const [mix, beat, ...voices] = await Promise.all(([{ kind: 'mix' }, { kind: 'beat' }, ...stems] as Part[]).map(part => render(song, part)))
    for (const side of [0, 1]) expect(decibelsBetween(sum([beat, ...voices])[side], mix[side])).toBeLessThan(-100)
  })

  test('without recipe, space and neighbours a stem is its layer as it lies', async () => {
    let song = bare(sung())
    song = setLayerMix(song, { layerId: song.layers[0].id, gainDecibels: 0, pan: 0 })
    const [left] = await render(song, { kind: 'layer', layerId: song.layers[0].id })
    const at = lineRange(0).startFrame + 4_800
    const expected = sounds['asset-1'][0].subarray(at - 336_000, at - 336_000 + 48_000).map(x => x * Math.SQRT1_2)
    expect(decibelsBetween(left.slice(at - RANGE.startFrame, at - RANGE.startFrame + 48_000), expected)).toBeLessThan(-120)
  })

  test('are offered of what is heard: no muted layer, none without a pick, with a solo only what is soloed', () => {
    const song = stacked()
    const names = (of: Song) => layersHeard(of).map(layer => layer.name)
    expect(names(song)).toEqual(['Lead', 'Double left', 'Double right', 'High 1'])
    expect(names(setLayerMix(song, { layerId: layerOf(song, 'Double left'), muted: true }))).toEqual(['Lead', 'Double right', 'High 1'])
    expect(names(setLayerMix(song, { layerId: layerOf(song, 'High 1'), soloed: true }))).toEqual(['High 1'])
    expect(planStems(song, 'role').map(part => nameOfPart(song, part))).toEqual(['Lead', 'Doubles', 'High harmonies'])
    expect(planStems({ ...song, layers: [] }, 'layer')).toEqual([])
  })
})

describe('dry', () => {
  test('a layer is as it lies, at its level and place, and so are all voices: what is done to them is left out', async () => {
    const song = stacked()
    const lead = layerOf(song, 'Lead')
    const plain = bare(song)
    for (const part of [{ kind: 'layer', layerId: lead }, { kind: 'vocals' }] as const) {
      const [dry, wet] = [await render(song, { ...part, dry: true }), await render(song, part)]
      const expected = await render(plain, part)
      for (const side of [0, 1]) expect(decibelsBetween(dry[side], expected[side])).toBeLessThan(-120)
      expect(decibelsBetween(dry[0], wet[0])).toBeGreaterThan(-40)
    }
    expect(nameOfPart(song, { kind: 'layer', layerId: lead, dry: true })).toBe('Lead dry')
    expect(planStems(song, 'layer', { dry: true })).toHaveLength(4)
  })
})

describe('without spaces', () => {
  test('layers, each space by itself and the beat sum to the mix, where one space feeds another and words are thrown', async () => {
    let song = setVocalGain(stacked(), { gainDecibels: -1 })
    song = setSend(song, { layerId: layerOf(song, 'Lead'), spaceId: song.spaces[2].id, gainDecibels: -6 })
    song = setSpace(song, { spaceId: song.spaces[2].id, feeds: { spaceId: PLATE_ID, gainDecibels: -3 } })
    const stems = planStems(song, 'layer', { bare: true })
    expect(stems.map(part => nameOfPart(song, part)).slice(-2)).toEqual(['Plate', 'Echo'])
    const [mix, beat, ...parts] = await Promise.all(([{ kind: 'mix' }, { kind: 'beat' }, ...stems] as Part[]).map(part => render(song, part)))
    for (const side of [0, 1]) expect(decibelsBetween(sum([beat, ...parts])[side], mix[side])).toBeLessThan(-100)
    // Nothing of a space is in its layer, and both spaces are heard.
    for (const part of parts.slice(-2)) expect(peakOf(part[0])).toBeGreaterThan(0.001)
  })
})

test('the click has a tick on every beat and nothing between them', async () => {
  const song = sung()
  const [left] = await offline(planPart(song, { kind: 'click' }), { startFrame: 0, endFrame: 4 * 48_000 }, withClick(store, song))
  for (let beat = 0; beat < 8; beat++) {
    const at = beat * 24_000
    expect(peakOf(left.subarray(at, at + 1_000))).toBeGreaterThan(0.2)
    expect(peakOf(left.subarray(at + 2_000, at + 23_900))).toBe(0)
  }
})
