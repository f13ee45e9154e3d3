/** A friend's additions come in beside one's own. */
import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { saveComp } from '../comp/comps'
import { pickTake } from '../comp/picks'
import { setPart } from '../parts/commands'
import { setLayerMix } from '../mix/commands'
import { SongSchema, type AssetId, type Song } from '../song/schema'
import { currentComp, placedLines, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { withoutUnused } from '../song/takes'
import { addLayer } from './commands'
import { addedTakes, mergeSong } from './merge'

const lead = (song: Song) => layerOf(song, 'Lead')

/** One take, picked for the first line. */
const ours = (() => {
  const song = withTakes(smallSong(), 'Lead', 1)
  return pickTake(song, { layerId: lead(song), takeId: song.takes[0].id, ...lineRange(0), makeId })
})()

/** The same song after a friend sang two more takes on it, picked one over the first line, made a layer, wrote notes, and changed what is ours. */
const theirs = (() => {
  let song = withTakes(ours, 'Lead', 2, { assetId: 'theirs' as AssetId })
  song = pickTake(song, { layerId: lead(song), takeId: song.takes[1].id, ...lineRange(0), makeId, insist: true })
  song = addLayer(song, { name: 'Whisper', role: 'double', makeId })
  song = pickTake(song, { layerId: layerOf(song, 'Whisper'), takeId: song.takes[2].id, ...lineRange(1), makeId, insist: true })
  song = setLayerMix(song, { layerId: lead(song), gainDecibels: -20 })
  song = setPart(song, { layerId: layerOf(song, 'High 1'), range: lineRange(0), notes: [{ ...lineRange(0), midi: 64 }] })
  const lineId = placedLines(song)[1].line.id
  return {
    ...song,
    title: 'Theirs',
    takes: song.takes.map((take, i) => (i === 0 ? { ...take, note: 'lovely' } : take)),
    layers: song.layers.map(layer => (layer.name === 'Lead' ? { ...layer, singAgain: [{ lineId, note: 'flat' }] } : layer)),
  }
})()

test('their takes, layers, comps, parts and notes come in; nothing of ours is another', () => {
  expect(addedTakes(ours, theirs)).toHaveLength(2)
  const merged = mergeSong(ours, theirs, { makeId })
  expect(merged).toMatchObject({ takes: 2, layers: ['Whisper'], comps: 1, notes: 2 })
  const { song } = merged
  expect(SongSchema.safeParse(song).error).toBeUndefined()
  expect(song.title).toBe(ours.title)
  const own = requireLayer(song, lead(song))
  expect(own.gainDecibels).toBe(0)
  // Our comp is what is heard; theirs stands beside it.
  expect(currentComp(own)).toEqual(currentComp(requireLayer(ours, lead(ours))))
  expect(own.comps.map(({ name }) => name)).toEqual(['Comp 1', 'Comp 1 (added)'])
  expect(own.comps[1].picks.map(pick => pick.takeId)).toEqual([theirs.takes[1].id])
  expect(requireLayer(song, layerOf(song, 'High 1')).part).toHaveLength(1)
  expect(song.takes.map(take => take.note)).toEqual(['lovely', '', ''])
  expect(own.singAgain).toEqual([{ lineId: placedLines(ours)[1].line.id, note: 'flat' }])
  expect(currentComp(requireLayer(song, layerOf(song, 'Whisper'))).picks).toHaveLength(1)
})

test('brought in twice it comes in once, and of an equal song nothing comes', () => {
  const { song } = mergeSong(ours, theirs, { makeId })
  expect(mergeSong(song, theirs, { makeId })).toMatchObject({ takes: 0, layers: [], comps: 0, notes: 0 })
  expect(mergeSong(ours, ours, { makeId }).song).toBe(ours)
})

test('what we went on with meanwhile stays: other words, another comp, a layer that is gone here', () => {
  const mine = saveComp({ ...ours, layers: ours.layers.filter(layer => layer.name !== 'Low 1') }, { layerId: lead(ours), name: '', makeId })
  const { song } = mergeSong(mine, theirs, { makeId })
  expect(song.layers.map(layer => layer.name)).not.toContain('Low 1')
  expect(currentComp(requireLayer(song, lead(song)))).toEqual(currentComp(requireLayer(mine, lead(mine))))
})

describe('whatever a friend does', () => {
  test('the song can be kept, holds all of ours as it was, and no take twice', () => {
    const act = fc.record({ layer: fc.nat(8), takes: fc.integer({ min: 1, max: 3 }), line: fc.nat(5), bin: fc.boolean(), fresh: fc.boolean() })
    const play = (song: Song, acts: readonly { layer: number; takes: number; line: number; bin: boolean; fresh: boolean }[]) =>
      acts.reduce((now, { layer, takes, line, bin, fresh }) => {
        const grown = fresh ? addLayer(now, { name: `New ${layer}`, role: 'ad-lib', makeId }) : now
        const { name, id } = fresh ? grown.layers.at(-1)! : grown.layers[layer % grown.layers.length]
        const sung = withTakes(grown, name, takes)
        const take = sung.takes.at(-1)!
        if (bin) return { ...sung, takes: sung.takes.map(entry => (entry === take ? { ...entry, binned: true } : entry)) }
        return pickTake(sung, { layerId: id, takeId: take.id, ...lineRange(line % 6), makeId, insist: true })
      }, song)
    fc.assert(
      fc.property(fc.array(act, { maxLength: 4 }), fc.array(act, { maxLength: 4 }), (mine, friends) => {
        const [here, there] = [play(ours, mine), play(ours, friends)]
        const { song } = mergeSong(here, there, { makeId })
        expect(SongSchema.safeParse(song).error).toBeUndefined()
        expect(song.takes.slice(0, here.takes.length)).toEqual(here.takes)
        expect(new Set(song.takes.map(take => take.id)).size).toBe(song.takes.length)
        here.layers.forEach((layer, i) => expect(song.layers[i].comps.slice(0, layer.comps.length)).toEqual(layer.comps))
        expect(song.takes.length - here.takes.length).toBe(addedTakes(here, there).length)
      }),
      { numRuns: 60 },
    )
  })
})

test('without what nothing plays a song has the takes that are picked, put aside or starred, and sounds the same', () => {
  const song = withTakes(ours, 'Lead', 3)
  const marked = {
    ...song,
    takes: song.takes.map((take, i) => (i === 2 ? { ...take, starred: true } : i === 3 ? { ...take, starred: true, binned: true } : take)),
  }
  const small = withoutUnused(marked)
  expect(small.takes.map(take => take.id)).toEqual([marked.takes[0].id, marked.takes[2].id])
  expect(small.layers).toBe(marked.layers)
  expect(SongSchema.safeParse(small).error).toBeUndefined()
  expect(withoutUnused(small)).toBe(small)
})
