import { describe, expect, test } from '@jest/globals'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { openSong } from './open'
import { pickTake } from '../comp/picks'
import { keepMix } from '../mix/kept-mixes'
import { planMix } from '../mix/plan'
import { addTreatment } from './arrangement'
import { SONG_VERSION, type AssetId, type Song, type Treatment } from './schema'
import { currentComp } from './select'
import { lineRange, makeId, smallSong, withTakes } from './song.test-kit'
import { hasEdits } from './takes'
import { FREE } from './usual-mix'

/** As the release before wrote it. */
const fourth = JSON.parse(readFileSync(join(__dirname, 'fixtures/song-4.json'), 'utf8')) as {
  vocalBus: { recipe: { compressor: Record<string, number> } }
  space: Record<string, unknown>
  layers: { sendDecibels: number }[]
}
const song = withTakes(smallSong(), 'Lead', 3)
const picked = pickTake(song, { layerId: song.layers[0].id, takeId: song.takes[1].id, ...lineRange(0), makeId })
const TREATMENT: Treatment = {
  id: 't',
  kind: 'far away',
  amount: 0.5,
  fadeFrames: 9,
  sourceStartFrame: 0,
  sourceEndFrame: 9_600,
  assetId: 'rendered' as AssetId,
}
const without = (entry: object, ...names: string[]) => Object.fromEntries(Object.entries(entry).filter(([name]) => !names.includes(name)))

describe('opening a stored document', () => {
  test('the current version comes back as it was', () => {
    expect(openSong(JSON.parse(JSON.stringify(song)))).toEqual({ kind: 'current', song, mends: [] })
  })
  test('an older version is migrated', () => {
    const old = { ...fourth, version: 0, sectionsAreDefault: undefined }
    expect(openSong(JSON.parse(JSON.stringify(old)))).toMatchObject({ kind: 'current', song: { version: SONG_VERSION, sectionsAreDefault: false } })
  })
  test('of version 4, its recipe is a row of three steps, its space the first of a list, and each layer sends into it as before', () => {
    const opened = openSong(fourth)
    if (opened.kind !== 'current') throw new Error('not opened')
    const { song: now, mends } = opened
    expect(mends).toEqual([])
    expect(now.vocalBus.recipe.steps.map(step => step.kind)).toEqual(['low-cut', 'compressor', 'air'])
    expect(now.vocalBus.recipe.steps[1]).toMatchObject(fourth.vocalBus.recipe.compressor)
    expect(now.spaces).toEqual([{ ...FREE, lowCutHz: 20, widthFraction: 1, sizeFraction: 1, id: 'plate', kind: 'plate', ...fourth.space }])
    now.layers.forEach((layer, i) => {
      expect(layer.sends).toEqual([{ spaceId: 'plate', gainDecibels: fourth.layers[i].sendDecibels, ride: [] }])
      expect([layer.recipe.steps, layer.ride]).toEqual([[], []])
    })
    expect(now.buses.map(bus => bus.recipe.steps)).toEqual(now.buses.map(() => []))
  })
  test('of version 5, rides and prints go on under new names, a coloured stretch keeps what was rendered, nothing is laid over takes', () => {
    const now = JSON.parse(JSON.stringify(addTreatment(picked, { treatment: TREATMENT }))) as Song
    const pick = (entry: object) => without(entry, 'asSung')
    const [first, ...others] = now.takes.map(take => ({ ...without(take, 'edits', 'bounceOf'), printOf: null as unknown }))
    const layers = now.layers.map(layer => ({
      ...without(layer, 'panRide'),
      ride: [{ frame: 480, gainDecibels: -6 }],
      sends: layer.sends.map(send => without(send, 'ride')),
      comps: layer.comps.map(comp => ({ ...comp, picks: comp.picks.map(pick) })),
    }))
    const printed = { ...first, printOf: { compId: now.layers[0].comps[0].id, picks: now.layers[0].comps[0].picks.map(pick) } }
    const beat = { ...now.beat, treatments: now.beat.treatments.map(treatment => without(treatment, 'fadeFrames')) }
    const opened = openSong({ ...now, version: 5, beat, layers, takes: [printed, ...others] })
    if (opened.kind !== 'current') throw new Error(JSON.stringify(opened))
    const { song: migrated, mends } = opened
    expect(mends).toEqual([])
    expect(migrated.layers[0]).toMatchObject({ ride: [{ frame: 480, value: -6 }], panRide: [] })
    expect(migrated.layers.flatMap(layer => layer.sends).every(send => send.ride.length === 0)).toBe(true)
    expect(migrated.takes[0].bounceOf).toEqual({
      compId: picked.layers[0].comps[0].id,
      picks: picked.layers[0].comps[0].picks,
      edits: [],
      tidy: null,
      tune: null,
    })
    expect(migrated.takes.every(take => !hasEdits(take))).toBe(true)
    expect(currentComp(migrated.layers[0]).picks).toEqual(currentComp(picked.layers[0]).picks)
    expect(migrated.beat.treatments[0].assetId).toBe('rendered')
  })
  test('of version 6, nothing is tidied or tuned that was not, and its moved notes and bounces go on', () => {
    const edit = { id: 'n', startFrame: 0, endFrame: 4_800, shiftCents: 40 }
    const edits = { gains: [], notes: [edit], times: [] }
    const bounceOf = { compId: picked.layers[0].comps[0].id, picks: [], edits: [{ takeId: 'take-1', edits }] }
    const sixth = {
      ...picked,
      version: 6,
      layers: picked.layers.map(layer => without(layer, 'tidy', 'tune')),
      takes: picked.takes.map((take, i) => ({ ...without(take, 'heard'), edits, bounceOf: i === 0 ? bounceOf : null })),
    }
    const opened = openSong(JSON.parse(JSON.stringify(sixth)))
    if (opened.kind !== 'current') throw new Error(JSON.stringify(opened))
    expect(opened.mends).toEqual([])
    expect(opened.song.layers.every(({ tidy, tune }) => tidy === null && tune === null)).toBe(true)
    expect(opened.song.takes[1].edits).toEqual({ ...edits, notes: [{ ...edit, rungCents: null }], mends: [] })
    expect(opened.song.takes[0].bounceOf).toMatchObject({ tidy: null, tune: null, edits: [{ edits: { notes: [{ rungCents: null }], mends: [] } }] })
    expect(opened.song.takes.every(({ heard }) => heard === null)).toBe(true)
  })
  test('of version 7, what was tuned is tuned to the key, in bounces too', () => {
    const numbers = { speedMilliseconds: 40, amount: 1, toleranceCents: 4, vibratoKept: 0.8, glidesKept: 0.6, throatSemitones: 0 }
    const bounceOf = { compId: picked.layers[0].comps[0].id, picks: [], edits: [], tidy: null, tune: numbers }
    const seventh = {
      ...picked,
      version: 7,
      layers: picked.layers.map((layer, i) => ({ ...layer, tune: i === 0 ? numbers : null })),
      takes: picked.takes.map((take, i) => ({ ...take, bounceOf: i === 0 ? bounceOf : null })),
    }
    const opened = openSong(JSON.parse(JSON.stringify(seventh)))
    if (opened.kind !== 'current') throw new Error(JSON.stringify(opened))
    const toKey = { ...numbers, to: { kind: 'key' }, lines: [] }
    expect(opened.mends).toEqual([])
    expect(opened.song.layers.map(({ tune }) => tune)).toEqual(picked.layers.map((_, i) => (i === 0 ? toKey : null)))
    expect(opened.song.takes[0].bounceOf?.tune).toEqual(toKey)
  })
  test('of version 8, a tidied layer sounds as it did: nothing is found in its takes that was not', () => {
    const tidy = { breathDecibels: -8, essDecibels: 0, popDecibels: -15, restDecibels: -60, mendsClicks: true }
    const heard = { frames: 96_000, phrases: [[0, 48_000]], breaths: [], esses: [], pops: [], clicks: [], notes: [] }
    const bounceOf = { compId: picked.layers[0].comps[0].id, picks: [], edits: [], tidy, tune: null }
    const eighth = {
      ...picked,
      version: 8,
      layers: picked.layers.map((layer, i) => ({ ...layer, tidy: i === 0 ? tidy : null })),
      takes: picked.takes.map((take, i) => ({ ...take, heard: i === 0 ? heard : null, bounceOf: i === 0 ? bounceOf : null })),
    }
    const opened = openSong(JSON.parse(JSON.stringify(eighth)))
    if (opened.kind !== 'current') throw new Error(JSON.stringify(opened))
    const asBefore = { ...tidy, fillsNoises: false, roundsClips: false, finalDecibels: 0, endsWithLead: false }
    expect(opened.mends).toEqual([])
    expect(opened.song.layers.map(layer => layer.tidy)).toEqual(picked.layers.map((_, i) => (i === 0 ? asBefore : null)))
    expect(opened.song.takes[0].bounceOf?.tidy).toEqual(asBefore)
    expect(opened.song.takes[0].heard).toEqual({ ...heard, noises: [], finals: [], clipped: [] })
  })
  test('of version 9, every layer stands in front, nothing is planned, and what follows the lead follows as it did', () => {
    const { stage: _, ...others } = picked
    const together = { tightness: 0.7, apart: [] }
    const layers = picked.layers.map(({ distance: _distance, wanted: _wanted, ...layer }, i) => ({ ...layer, together: i === 1 ? together : null }))
    const opened = openSong(JSON.parse(JSON.stringify({ ...others, version: 9, layers })))
    if (opened.kind !== 'current') throw new Error(JSON.stringify(opened))
    expect(opened.mends).toEqual([])
    expect(opened.song.layers.map(({ distance, wanted }) => [distance, wanted])).toEqual(layers.map(() => [0, []]))
    expect(opened.song.layers[1].together).toEqual({ ...together, endsTogether: false })
    expect(planMix(opened.song)).toEqual(planMix(picked))
  })
  test('of version 11, reverbs are of their one size, in kept mixes too, and lines that come are planned for nobody', () => {
    const mixed = keepMix(picked, { name: 'Friday', makeId })
    const bare = (spaces: Song['spaces']) => spaces.map(space => without(space, 'sizeFraction'))
    const eleventh = {
      ...mixed,
      version: 11,
      spaces: bare(mixed.spaces),
      output: without(mixed.output, 'recipe'),
      mixes: mixed.mixes.map(mix => ({ ...mix, values: { ...mix.values, spaces: bare(mix.values.spaces), output: without(mix.values.output, 'recipe') } })),
      layers: mixed.layers.map(layer => without(layer, 'sings')),
    }
    const opened = openSong(JSON.parse(JSON.stringify(eleventh)))
    expect(opened).toEqual({ kind: 'current', song: mixed, mends: [] })
  })
  test('of version 12, the whole mix goes through nothing but the ceiling, kept mixes too', () => {
    const mixed = keepMix({ ...picked, output: { ...picked.output, ceilingDbfs: -3 } }, { name: 'Friday', makeId })
    const twelfth = {
      ...mixed,
      version: 12,
      output: { ceilingDbfs: -3 },
      mixes: mixed.mixes.map(mix => ({ ...mix, values: { ...mix.values, output: { ceilingDbfs: -3 } } })),
    }
    expect(openSong(JSON.parse(JSON.stringify(twelfth)))).toEqual({ kind: 'current', song: mixed, mends: [] })
  })
  test('a newer version is shown but marked', () => {
    expect(openSong({ ...song, version: SONG_VERSION + 1 })).toMatchObject({ kind: 'newer', version: SONG_VERSION + 1 })
  })
  test.each([
    [
      'a pick of a take that is not there',
      (s: Song) => ({
        ...s,
        takes: [],
        layers: [
          {
            ...s.layers[0],
            comps: [
              {
                ...s.layers[0].comps[0],
                picks: [
                  { id: 'p', takeId: 'gone', startFrame: 0, endFrame: 9, gainDecibels: 0, levelMatched: false, nudgeFrames: 0, seam: null, split: false },
                ],
              },
            ],
          },
        ],
      }),
    ],
    ['a level that is not a number', (s: Song) => ({ ...s, vocalBus: { ...s.vocalBus, gainDecibels: Number.NaN } })],
    ['an unknown field', (s: Song) => ({ ...s, script: 'x' })],
    ['overlapping sections', (s: Song) => ({ ...s, sections: [s.sections[0], s.sections[0]] })],
  ])('%s is refused with its place', (_, damage) => {
    const opened = openSong(damage(song))
    expect(opened.kind).toBe('damaged')
    expect(opened.kind === 'damaged' && opened.problems[0].path.length).toBeGreaterThan(0)
  })
})

describe('a document that is only out of a limit is mended, and says what was changed', () => {
  const layers = (s: Song, count: number) => Array.from({ length: count }, (_, i) => ({ ...s.layers[0], id: `layer-${i}` }))
  test.each([
    [
      'a heading that is too long',
      (s: Song) => ({ ...s, sections: s.sections.map((section, i) => (i === 1 ? { ...section, name: 'n'.repeat(300) } : section)) }),
      [{ path: 'sections.1.name', what: 'cut' }],
    ],
    [
      'more lines than a section holds',
      (s: Song) => ({
        ...s,
        sections: [{ ...s.sections[0], lines: Array.from({ length: 501 }, (_, i) => ({ id: `l${i}`, words: '', startBeat: 0, beatCount: 1 })) }],
      }),
      [{ path: 'sections.0.lines', what: 'cut' }],
    ],
    ['a level beyond its range', (s: Song) => ({ ...s, vocalBus: { ...s.vocalBus, gainDecibels: 40 } }), [{ path: 'vocalBus.gainDecibels', what: 'clamped' }]],
    [
      'a bar beyond counting',
      (s: Song) => ({ ...s, sections: [...s.sections.slice(0, -1), { ...s.sections.at(-1)!, startBar: 999_999 }] }),
      [{ path: 'sections.3.startBar', what: 'clamped' }],
    ],
    ['one layer too many', (s: Song) => ({ ...s, takes: [], layers: layers(s, 65) }), [{ path: 'layers', what: 'cut' }]],
  ])('%s', (_, spoil, mends) => {
    const opened = openSong(spoil(song))
    expect(opened).toMatchObject({ kind: 'current', mends })
    expect(opened.kind === 'current' && openSong(opened.song)).toMatchObject({ kind: 'current', mends: [] })
  })
})
