import { expect, test } from '@jest/globals'
import { pickTake } from '../comp/picks'
import { saveComp, describeComp } from '../comp/comps'
import { binnedTakes, lineState, requireLayer } from './select'
import type { Song, SpareId } from './schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from './song.test-kit'
import { placeOfTake } from './take-place'
import { binTake, checkBin, emptyBin, erasableTakes, noteLevels, placeAgain, usesOfTake } from './takes'

const song = withTakes(smallSong(), 'Lead', 3)
const lead = layerOf(song, 'Lead')

test('a line is missing, then sung, then picked; binning the take takes the pick with it and says where it was used', () => {
  const layer = (s: Song) => requireLayer(s, lead)
  expect(lineState(smallSong(), smallSong().layers[0], lineRange(0))).toBe('missing')
  expect(lineState(song, layer(song), lineRange(0))).toBe('sung')
  const picked = pickTake(song, { layerId: lead, takeId: song.takes[0].id, ...lineRange(0), makeId })
  expect(lineState(picked, layer(picked), lineRange(0))).toBe('picked')
  expect(usesOfTake(picked, song.takes[0].id)).toMatchObject([{ layerId: lead, ...lineRange(0) }])
  const binned = binTake(picked, { takeId: song.takes[0].id })
  expect(lineState(binned, layer(binned), lineRange(0))).toBe('sung')
  expect(binnedTakes(binned)).toHaveLength(1)
})

test('a take that a locked comp plays does not go to the bin, and the comp is named', () => {
  const picked = pickTake(song, { layerId: lead, takeId: song.takes[0].id, ...lineRange(0), makeId })
  const saved = saveComp(picked, { layerId: lead, name: 'Friday', makeId })
  const compId = requireLayer(saved, lead).comps[1].id
  const locked = describeComp(saved, { layerId: lead, compId, locked: true })
  expect(checkBin(locked, song.takes[0].id)).toEqual({ ok: false, reason: 'locked', compNames: ['Friday of Lead'] })
  expect(() => binTake(locked, { takeId: song.takes[0].id })).toThrow(RangeError)
  expect(checkBin(locked, song.takes[1].id)).toEqual({ ok: true })
})

test('an emptied bin takes along what was put aside of its takes, and no take that is played or lies outside it', () => {
  const picked = pickTake(song, { layerId: lead, takeId: song.takes[1].id, ...lineRange(0), makeId })
  const binned = binTake(picked, { takeId: song.takes[0].id })
  const aside = { ...binned, spares: [0, 2].map(i => ({ id: makeId() as SpareId, takeId: song.takes[i].id, ...lineRange(0), note: '' })) }
  // One that something plays all the same, as no command leaves it.
  const odd: Song = { ...aside, takes: aside.takes.map((take, i) => (i === 1 ? { ...take, binned: true } : take)) }
  expect(erasableTakes(odd).map(({ id }) => id)).toEqual([song.takes[0].id])
  const emptied = emptyBin(odd)
  expect(emptied.takes).toEqual(odd.takes.slice(1))
  expect(emptied.spares).toEqual(odd.spares.slice(1))
  expect(emptied.layers).toBe(odd.layers)
  expect(emptyBin(emptied)).toBe(emptied)
})

test('the level of a take of digital silence is the lowest that can be kept', () => {
  const silent = { peakDbfs: -Infinity, voiceDbfs: Number.NaN, noiseDbfs: -96, tiltDecibels: 3 }
  expect(noteLevels(song, { levels: new Map([[song.takes[0].id, silent]]) }).takes[0].level).toEqual({
    peakDbfs: -200,
    voiceDbfs: -200,
    noiseDbfs: -96,
    tiltDecibels: 3,
  })
})

test('placing a take again moves all of it by the difference, and nothing else', () => {
  const [take] = song.takes
  const moved = placeAgain(song, {
    takeIds: [take.id],
    roundTripFrames: take.roundTripFrames + 480,
    source: 'measured',
    measuredAt: '2026-01-02T20:00:00.000Z',
  })
  expect(moved.takes[0]).toMatchObject({
    originFrame: take.originFrame - 480,
    startFrame: take.startFrame - 480,
    endFrame: take.endFrame - 480,
    roundTripSource: 'measured',
  })
  expect(moved.takes.slice(1)).toEqual(song.takes.slice(1))
  expect(moved.layers).toBe(song.layers)
})

test('a take is named by what it covers in the sheet: a line, lines, sections, or bars where there is none', () => {
  const cover = (from: number, to: number) => placeOfTake(song, { startFrame: lineRange(from).startFrame - 24_000, endFrame: lineRange(to).endFrame + 24_000 })
  expect(cover(0, 0)).toBe('Verse, line 1')
  expect(cover(1, 3)).toBe('Verse, lines 2 to 4')
  expect(cover(2, 4)).toBe('Verse to Hook')
  expect(placeOfTake(song, { startFrame: 0, endFrame: 192_000 })).toBe('bars 1 to 2')
})
