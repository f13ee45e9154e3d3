import { describe, expect, test } from '@jest/globals'
import type { Mono } from '../audio/frames'
import { sine } from '../audio/signals.test-kit'
import { pickTake } from '../comp/picks'
import { addLayer } from '../layers/commands'
import { setMade, setPart } from '../parts/commands'
import type { AssetId, LayerId, Song } from '../song/schema'
import { requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { USUAL_STAGE } from '../song/stage-schema'
import { cutIntoChunks } from './chunk-window'
import { setLayerMix } from './commands'
import { bare, offline, sung } from './mix.test-kit'
import { checkMono } from './mono-check'
import { planMix } from './plan'
import type { AssetStore } from './render-offline'
import { alternateSides, partnerOf, pansOfWidth, placeLayer, setStage, setWidth } from './stage'

const song = smallSong()
const [lead, left, right] = ['Lead', 'Double left', 'Double right'].map(name => layerOf(song, name))
const power = (plane: Float32Array) => plane.reduce((sum, value) => sum + value * value, 0) / plane.length
const decibels = (a: number, b: number) => 10 * Math.log10(a / b)
/** Half a second inside the first line, in which the small song's lead sings 330 Hz. */
const inLine = { startFrame: lineRange(0).startFrame + 48_000, endFrame: lineRange(0).startFrame + 72_000 }

describe('places', () => {
  test('a pair moves as mirror images, as near and as far; alone, only one does; the lead has no partner', () => {
    expect(partnerOf(song, requireLayer(song, left))?.id).toBe(right)
    expect(partnerOf(song, requireLayer(song, right))?.id).toBe(left)
    expect(partnerOf(song, requireLayer(song, lead))).toBeNull()
    const both = placeLayer(song, { layerId: right, mirrored: true, pan: 0.3, distance: 0.4 })
    expect([left, right].map(id => requireLayer(both, id))).toMatchObject([
      { pan: -0.3, distance: 0.4 },
      { pan: 0.3, distance: 0.4 },
    ])
    const one = placeLayer(song, { layerId: right, mirrored: false, pan: 9, distance: Number.NaN })
    expect(requireLayer(one, right)).toMatchObject({ pan: 1, distance: 0 })
    expect(requireLayer(one, left)).toEqual(requireLayer(song, left))
  })

  test('the presets keep the lead in the middle, low voices nearer to it than high ones, and each is wider than the one before', () => {
    const widths = (['narrow', 'even', 'wide'] as const).map(width => pansOfWidth(song, width))
    for (const pans of widths) {
      expect(pans.get(lead)).toBe(0)
      const [low, high] = ['Low 1', 'High 1'].map(name => Math.abs(pans.get(layerOf(song, name))!))
      expect(low).toBeLessThan(high)
      for (const layer of song.layers) {
        const partner = partnerOf(song, layer)
        if (partner) expect(pans.get(partner.id)).toBe(-pans.get(layer.id)!)
      }
    }
    for (const id of [left, layerOf(song, 'Ad-lib right')]) {
      const [narrow, even, wide] = widths.map(pans => Math.abs(pans.get(id)!))
      expect(narrow).toBeLessThan(even)
      expect(even).toBeLessThan(wide)
    }
  })

  test('a voice without a partner stands in the middle, a second pair inside the first, a spare where it was', () => {
    const more = ['Double 3', 'Double 4', 'Double 5'].reduce((s, name) => addLayer(s, { name, role: 'double', makeId }), song)
    const spare = setLayerMix(addLayer(more, { name: 'Found', role: 'spare', makeId }), { layerId: left, pan: 0.9 })
    const wide = setWidth(setLayerMix(spare, { layerId: layerOf(spare, 'Found'), pan: -0.2 }), { width: 'wide' })
    const panOf = (name: string) => requireLayer(wide, layerOf(wide, name)).pan
    expect(panOf('Double 5')).toBe(0)
    expect(panOf('Double 3')).toBeLessThan(0)
    expect(Math.abs(panOf('Double 3'))).toBeLessThan(Math.abs(panOf('Double left')))
    expect(panOf('Found')).toBe(-0.2)
  })

  test('ad-libs go to every other side line by line, and come back to where they stand', () => {
    const voiced = withTakes(song, 'Ad-lib left', 1)
    const layerId = layerOf(voiced, 'Ad-lib left')
    // The first begins with a breath, in the bars before the sheet's first line; the last with one in the line before it, in which nothing else is sung.
    const breath = (line: number) => ({ ...lineRange(line), startFrame: lineRange(line).startFrame - 14_400 })
    const picked = [0, 1, 3].reduce((s, line) => pickTake(s, { layerId, takeId: s.takes[0].id, ...breath(line), makeId }), voiced)
    const sides = requireLayer(alternateSides(picked, { layerId, pan: 0.6 }), layerId).panRide
    const at = (line: number) => sides.filter(({ frame }) => frame >= lineRange(line).startFrame && frame < lineRange(line).endFrame).map(({ value }) => value)
    expect([0, 1, 3].map(at)).toEqual([
      [-0.6, -0.6],
      [0.6, 0.6],
      [-0.6, -0.6],
    ])
    expect(requireLayer(alternateSides(picked, { layerId, pan: 0 }), layerId).panRide).toEqual([])
  })

  test('so do ad-libs that are made: a line each, though no take plays', () => {
    const layerId = layerOf(song, 'Ad-lib left')
    const written = [0, 2].reduce((s, line) => {
      const range = lineRange(line)
      return setPart(s, { layerId, range, notes: [{ startFrame: range.startFrame + 4_800, endFrame: range.endFrame - 48_000, midi: 64 }] })
    }, song)
    const made = setMade(written, { layerId, made: { sound: 'tone', throatSemitones: 0, seed: 1 } })
    const { panRide } = requireLayer(alternateSides(made, { layerId, pan: 0.5 }), layerId)
    const { startFrame } = lineRange(2)
    expect(panRide.map(({ frame, value }) => [frame < startFrame ? 'first' : 'third', value])).toEqual([
      ['first', -0.5],
      ['first', -0.5],
      ['third', 0.5],
      ['third', 0.5],
    ])
  })
})

describe('near and far', () => {
  const far = (distance: number, song = sung()) => placeLayer(bare(song), { layerId: layerOf(song, 'Lead'), mirrored: false, distance })
  const loud = async (song: Song) => power((await offline(planMix({ ...song, beat: { ...song.beat, muted: true } }), inLine))[0])

  test('at the back a voice is softer by what the rule says, halfway by half of it, and in front it is as before', async () => {
    const near = await loud(bare(sung()))
    expect(await loud(far(0))).toBe(near)
    // 330 Hz lies well under the corner of the air.
    expect(decibels(await loud(far(1)), near)).toBeCloseTo(USUAL_STAGE.levelDecibels, 1)
    expect(decibels(await loud(far(0.5)), near)).toBeCloseTo(USUAL_STAGE.levelDecibels / 2, 1)
  })

  test('the heights go first, by the rule’s decibels, and what is sent into the rooms stays as loud as it was', () => {
    const song = setStage(sung(), { levelDecibels: -6, airDecibels: -5, sendDecibels: 6 })
    const leadId = layerOf(song, 'Lead')
    const channelOf = (s: Song) => planMix(s).channels.find(({ id }) => id === leadId)!
    const [near, back] = [channelOf(song), channelOf(placeLayer(song, { layerId: leadId, mirrored: false, distance: 1 }))]
    expect(back.steps.at(-1)).toMatchObject({ kind: 'air', gainDecibels: -5 })
    back.sends.forEach(({ gain }, i) => expect(gain * back.gain).toBeCloseTo(near.sends[i].gain * near.gain, 9))
  })

  test('the rule keeps to its ranges, and nonsense changes nothing', () => {
    expect(setStage(song, { levelDecibels: -99, airDecibels: 4, sendDecibels: Number.NaN }).stage).toEqual({
      levelDecibels: -24,
      airDecibels: 0,
      sendDecibels: USUAL_STAGE.sendDecibels,
    })
  })
})

describe('mono', () => {
  test('heard in mono both sides are their middle, and a pair of opposite waves is gone', async () => {
    const plan = planMix(sung(), { kind: 'song' }, new Map(), { inMono: true })
    const [l, r] = await offline(plan, inLine)
    expect(l).toEqual(r)
    const [a, b] = await offline(planMix(sung()), inLine)
    const worst = l.reduce((most, value, i) => Math.max(most, Math.abs(value - 0.5 * (a[i] + b[i]))), 0)
    expect(worst).toBeLessThan(1e-3)
  })

  const waves: Record<string, Mono> = {
    'asset-1': sine({ hz: 330, frames: 30 * 48_000, amplitude: 0.3 }),
    'asset-2': sine({ hz: 330, frames: 30 * 48_000, amplitude: -0.3 }),
    'asset-3': sine({ hz: 495, frames: 30 * 48_000, amplitude: 0.3 }),
  }
  const chunks = Object.fromEntries(Object.entries(waves).map(([id, wave]) => [id, [...cutIntoChunks([wave])]]))
  const store: AssetStore = {
    framesOf: id => Promise.resolve(waves[id].length),
    readChunks: (id: AssetId, indices) => Promise.resolve(indices.map(index => chunks[id][index])),
  }
  const voices = bare(['Lead', 'Double left', 'Double right'].reduce((s, name) => withTakes(s, name, 1), song))
  const playing = (pans: Record<string, number>) =>
    Object.entries(pans).reduce((s, [name, pan], i) => {
      const layerId = layerOf(s, name)
      const picked = pickTake(s, { layerId, takeId: s.takes[i].id, ...lineRange(0), insist: true, makeId })
      return setLayerMix(picked, { layerId, pan, gainDecibels: 0 })
    }, voices)
  const check = (s: Song) => checkMono(s, inLine, { store, prints: new Map() })

  test('a voice in the middle loses nothing, one that is all on one side 3 dB', async () => {
    const { roles } = await check(playing({ Lead: 0 }))
    expect(roles.map(({ role }) => role)).toEqual(['lead', 'voices'])
    expect(roles[0].lossDecibels).toBeCloseTo(0, 1)
    const aside = await check(setLayerMix(playing({ Lead: 0 }), { layerId: lead, pan: 1 }))
    expect(aside.roles[0].lossDecibels).toBeCloseTo(-3.01, 1)
  })

  test('two that are each other upside down are named, two of different pitch are not; a muted one is not asked', async () => {
    const opposite = playing({ Lead: -1, 'Double left': 1, 'Double right': 0.5 })
    const { cancelling, roles } = await check(opposite)
    expect(cancelling.map(({ layerIds }) => layerIds)).toEqual([[lead, left]])
    expect(cancelling[0].lossDecibels).toBe(-60)
    expect(roles.find(({ role }) => role === 'voices')!.lossDecibels).toBeLessThan(-3)
    const muted = await check(setLayerMix(opposite, { layerId: left, muted: true }))
    expect(muted.cancelling).toEqual([])
    expect(await check(voices)).toEqual({ roles: [], cancelling: [] })
  })
})

test('of a layer that is not there nothing can be placed', () => {
  expect(() => placeLayer(song, { layerId: 'gone' as LayerId, mirrored: true, pan: 0 })).toThrow(RangeError)
})
