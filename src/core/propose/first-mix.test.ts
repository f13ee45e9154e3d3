import { beforeAll, describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { median } from '../audio/statistics'
import { cutIntoChunks } from '../mix/chunk-window'
import { bell, filtered } from '../effects/biquad'
import { removeLayer } from '../layers/commands'
import { addStep, recipeAt, type RecipePlace } from '../mix/recipes'
import { MOST_STEPS } from '../song/mix-schema'
import type { AssetStore } from '../mix/render-offline'
import { makeDemoBeat } from '../rehearsal/demo-beat'
import { SongSchema, type AssetId, type Song, type TakeId } from '../song/schema'
import { placedLines } from '../song/select'
import { layerOf, makeId } from '../song/song.test-kit'
import { picked, sheet, Studio } from '../stack/stack.test-kit'
import { readCorrections } from './corrections'
import { isTaken, proposeFirstMix, takeProposal, type Proposed } from './first-mix'
import { linesInMix } from './lines-in-mix'
import { EMPTY_RECIPE } from '../song/usual-mix'
import { readMixFacts, voiceBandLufs, type MixFacts, type MixSounds } from './mix-facts'

const [lead, left] = [layerOf(sheet, 'Lead'), layerOf(sheet, 'Double left')]
/** Two lines of a verse, the second sung at a third of the level, and the first of a hook. */
const lines = [placedLines(sheet)[0], placedLines(sheet)[1], placedLines(sheet)[4]]
const LEVELS = [1, 0.35, 0.8]
const demoBeat = makeDemoBeat()
const studio = new Studio()

/** The demo beat at so many decibels. */
function songOver(beatDecibels: number): { song: Song; sounds: MixSounds } {
  const gain = 10 ** (beatDecibels / 20)
  const beat = demoBeat.map(plane => plane.map(value => gain * value) as Mono) as Planar
  const all = new Map<AssetId, Planar>([[sheet.beat.assetId, beat], ...[...studio.assets].map(([id, sound]): [AssetId, Planar] => [id, [sound]])])
  const chunks = new Map([...all].map(([id, planes]) => [id, [...cutIntoChunks(planes)]]))
  const store: AssetStore = {
    framesOf: id => Promise.resolve(all.get(id)![0].length),
    readChunks: (id, indices) => Promise.resolve(indices.map(index => chunks.get(id)![index])),
  }
  return { song: sung, sounds: { store, prints: new Map(), analysisOf: studio.sounds.analysisOf } }
}

let sung: Song
beforeAll(() => {
  sung = lines.reduce((song, line, i) => {
    const whole = studio.sing(song, lead, [line], { firstTake: 3 })
    const id = whole.takes.at(-1)!.id
    const sound = studio.soundOf(whole, id)
    sound.forEach((value, k) => (sound[k] = LEVELS[i] * value))
    return picked(whole, lead, id, line)
  }, sheet)
  sung = studio.sing(sung, left, [lines[2]], { firstTake: 5 })
  sung = picked(sung, left, sung.takes.at(-1)!.id as TakeId, lines[2])
})

const of = <K extends Proposed['kind']>(all: readonly Proposed[], kind: K) =>
  all.filter((entry): entry is Extract<Proposed, { kind: K }> => entry.kind === kind)
const takeAll = (song: Song, all: readonly Proposed[]) => all.reduce((now, proposed) => takeProposal(now, proposed, makeId), song)

describe('a first mix', () => {
  let facts: MixFacts
  beforeAll(async () => {
    const { song, sounds } = songOver(0)
    facts = await readMixFacts(song, sounds)
  })

  test('hears each voice line by line as it was sung, how low it goes, and the beat where voices live', () => {
    const voice = facts.voices.find(({ layerId }) => layerId === lead)!
    const lufs = voice.lines.map(line => line.lufs)
    expect(lufs[0] - lufs[1]).toBeCloseTo(20 * Math.log10(1 / 0.35), -0.5)
    // F minor, sung from F3 (175 Hz) up or an octave below: the lowest held note is one of the scale's, far over a rumble.
    expect(voice.lowestHz).toBeGreaterThan(80)
    expect(voice.lowestHz).toBeLessThan(300)
    const both = demoBeat.map(plane => plane.subarray(lines[0].startFrame, lines[0].endFrame) as Mono)
    expect(facts.beat[0].lufs).toBeCloseTo(voiceBandLufs(both) + sung.beat.gainDecibels, 0)
  })

  test('brings the lead to the wanted loudness over the beat, whatever the beat’s, and the ride brings nine lines in ten within 1.5 LU', async () => {
    for (const beatDecibels of [-12, 6]) {
      const { song, sounds } = songOver(beatDecibels)
      const heard = await readMixFacts(song, sounds)
      const corrections = await readCorrections(song, lead, heard, 3, sounds)
      const mixed = takeAll(song, proposeFirstMix(song, heard, { leadOverBeatLu: 3, corrections }))
      expect(SongSchema.safeParse(mixed).error).toBeUndefined()
      const off = [...(await linesInMix(mixed, lead, heard, 3, sounds)).values()].map(Math.abs)
      expect(off).toHaveLength(3)
      expect(median(off)).toBeLessThan(1)
      // What was sung 9 dB softer is brought up by 3 at most.
      expect(off.filter(value => value < 1.5).length).toBeGreaterThanOrEqual(2)
    }
  })

  test('cuts low under the lowest note, keeps the double below the lead, and presses a stack half as much as the lead', () => {
    const all = proposeFirstMix(sung, facts, { leadOverBeatLu: 3 })
    for (const cut of of(all, 'low-cut')) expect(cut.cutoffHz).toBeLessThan(cut.reason.lowestHz)
    const [leadLevel, doubleLevel] = [lead, left].map(id => of(all, 'level').find(({ layerId }) => layerId === id)!)
    expect(leadLevel.reason.belowLeadLu).toBe(0)
    expect(doubleLevel.reason.belowLeadLu).toBeGreaterThan(8)
    const [whole, stack] = [of(all, 'press').find(({ role }) => role === 'all')!, of(all, 'press').find(({ role }) => role === 'double')!]
    expect(stack.reason.takesDecibels).toBeCloseTo(whole.reason.takesDecibels / 2, 6)
    // The curve: what is over the threshold, less what the ratio leaves of it.
    expect((whole.reason.loudDbfs - whole.thresholdDecibels) * (1 - 1 / whole.ratio)).toBeCloseTo(whole.reason.takesDecibels, 0)
  })

  test('where nothing presses or tames a voice yet, that is proposed, the stack at less; where its own recipe does, not once more', () => {
    const bare: Song = {
      ...sung,
      vocalBus: { ...sung.vocalBus, recipe: EMPTY_RECIPE },
      buses: sung.buses.map(bus => ({ ...bus, recipe: EMPTY_RECIPE })),
      layers: sung.layers.map(layer => ({ ...layer, recipe: EMPTY_RECIPE })),
    }
    const sharp = { ...facts, voices: facts.voices.map(voice => ({ ...voice, esses: { essDbfs: -20, voiceDbfs: -26 } })) }
    const all = proposeFirstMix(bare, sharp, { leadOverBeatLu: 3 })
    expect(of(all, 'press').map(({ role, ratio }) => [role, ratio])).toEqual([
      ['all', 3],
      ['double', 2],
    ])
    expect(of(all, 'esses').map(({ role }) => role)).toEqual(['lead', 'double'])
    const mixed = takeAll(bare, all)
    expect(recipeAt(mixed, { kind: 'role', role: 'double' }).steps).toMatchObject([{ kind: 'de-esser' }, { kind: 'compressor', ratio: 2 }])
    expect(all.every(proposed => isTaken(mixed, proposed))).toBe(true)
    const soft = { ...facts, voices: facts.voices.map(voice => ({ ...voice, esses: { essDbfs: -30, voiceDbfs: -26 } })) }
    expect(of(proposeFirstMix(bare, soft, { leadOverBeatLu: 3 }), 'esses')).toEqual([])
    const pressed = addStep(bare, { place: { kind: 'layer', layerId: lead }, kind: 'compressor', makeId })
    expect(of(proposeFirstMix(pressed, sharp, { leadOverBeatLu: 3 }), 'press').map(({ role }) => role)).toEqual(['double'])
  })

  test('each proposal is taken by itself, and once taken it is; all of them twice change nothing more', () => {
    const all = proposeFirstMix(sung, facts, { leadOverBeatLu: 3 })
    for (const proposed of all) {
      const taken = takeProposal(sung, proposed, makeId)
      expect(isTaken(taken, proposed)).toBe(true)
      expect(SongSchema.safeParse(taken).error).toBeUndefined()
    }
    const mixed = takeAll(sung, all)
    expect(all.every(proposed => isTaken(mixed, proposed))).toBe(true)
    expect(takeAll(mixed, all)).toEqual(mixed)
    expect(recipeAt(mixed, { kind: 'layer', layerId: lead }).steps.map(({ kind }) => kind)[0]).toBe('low-cut')
  })

  test('a ride holds still in a line, moves in rests, and goes no further than 6 dB down and 3 up', () => {
    const [ride] = of(proposeFirstMix(sung, facts, { leadOverBeatLu: 3 }), 'ride')
    for (const { value } of ride.points) {
      expect(value).toBeGreaterThanOrEqual(-6)
      expect(value).toBeLessThanOrEqual(3)
    }
    const inLine = (line: { startFrame: number; endFrame: number }) =>
      ride.points.filter(({ frame }) => frame > line.startFrame && frame < line.endFrame - 0.3 * SAMPLE_RATE_HZ)
    for (const line of lines) expect(inLine(line)).toEqual([])
    expect(ride.reason.leftLu).toBeLessThan(ride.reason.spreadLu)
  })

  test('a layer that was removed since it was listened to is proposed nothing, and a recipe that is full gets no step more', () => {
    const removed = removeLayer(sung, { layerId: left })
    const all = proposeFirstMix(removed, facts, { leadOverBeatLu: 3 })
    expect(all.filter(proposed => 'layerId' in proposed && proposed.layerId === left)).toEqual([])
    expect(all.every(proposed => isTaken(takeProposal(removed, proposed, makeId), proposed))).toBe(true)
    const place: RecipePlace = { kind: 'layer', layerId: lead }
    const full = Array.from({ length: MOST_STEPS }).reduce((song: Song) => addStep(song, { place, kind: 'gate', makeId }), sung)
    const rest = proposeFirstMix(full, facts, { leadOverBeatLu: 3 })
    expect(rest.some(({ kind }) => kind === 'low-cut')).toBe(true)
    expect(recipeAt(takeAll(full, rest), place).steps).toHaveLength(MOST_STEPS)
  })

  test('a voice that booms by 18 dB at 250 Hz is cut there, by no more than 5 dB; as they are, none is cut', async () => {
    const { song, sounds } = songOver(0)
    expect(of(proposeFirstMix(song, facts, { leadOverBeatLu: 3 }), 'cut')).toEqual([])
    const own = song.takes.filter(({ layerId }) => layerId === lead)
    const boomy = new Map(own.map(({ id, assetId }) => [assetId, [...cutIntoChunks([filtered(studio.soundOf(song, id), bell(250, 18, 4))])]]))
    const store: AssetStore = {
      ...sounds.store,
      readChunks: (asset, indices) =>
        boomy.has(asset) ? Promise.resolve(indices.map(index => boomy.get(asset)![index])) : sounds.store.readChunks(asset, indices),
    }
    const [cut] = of(proposeFirstMix(song, await readMixFacts(song, { ...sounds, store }), { leadOverBeatLu: 3 }), 'cut').filter(
      ({ layerId, band }) => layerId === lead && band === 'boom',
    )
    expect(Math.abs(Math.log2(cut.hz / 250))).toBeLessThan(0.35)
    expect(cut.decibels).toBeLessThanOrEqual(-2)
    expect(cut.decibels).toBeGreaterThanOrEqual(-5)
  })

  test('a song in which nobody sings has nothing to propose but its rooms', async () => {
    const { sounds } = songOver(0)
    const none = await readMixFacts(sheet, sounds)
    expect(none.voices).toEqual([])
    expect(proposeFirstMix(sheet, none, { leadOverBeatLu: 3 }).map(({ kind }) => kind)).toEqual(['reverb'])
  })
})
