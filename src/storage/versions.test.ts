import 'fake-indexeddb/auto'
import { describe, expect, test } from '@jest/globals'
import { pickTake } from '../core/comp/picks'
import { setLayerMix } from '../core/mix/commands'
import { SongSchema, type AssetId, type Song, type SongId } from '../core/song/schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../core/song/song.test-kit'
import { differenceOf, goBackTo } from '../core/song/versions'
import { database } from './database'
import { addSong, destroySong, sweepLeftovers } from './songs'
import { keepVersion, keptVersions, MOST_VERSIONS, removeVersion } from './versions'

const song: Song = { ...smallSong(), id: 'one' as SongId }
const kept = (number: number, of: Song = song) => ({
  id: `v${number}`,
  name: `Version ${number}`,
  note: '',
  keptAt: new Date(Date.UTC(2026, 10, 30, 0, 0, number)).toISOString(),
  song: of,
})

describe('going back', () => {
  const sung = (() => {
    const taken = withTakes(song, 'Lead', 2)
    return pickTake(taken, { layerId: layerOf(taken, 'Lead'), takeId: taken.takes[1]!.id, ...lineRange(0), makeId })
  })()

  test('is the song as it was, and what was sung since is still there, played by nothing', () => {
    const before = setLayerMix(song, { layerId: layerOf(song, 'Lead'), gainDecibels: -5 })
    const back = goBackTo({ ...sung, title: 'Now' }, before)
    expect(back).toEqual({ ...before, takes: sung.takes })
    expect(SongSchema.safeParse(back).success).toBe(true)
  })

  test('is told by how much the present has more, and whether it is mixed otherwise', () => {
    expect(differenceOf(sung, song)).toEqual({ takes: 2, layers: 0, lines: 0, picks: 1, isMixedOtherwise: false })
    expect(differenceOf(song, sung)).toMatchObject({ takes: -2, picks: -1 })
    expect(differenceOf(setLayerMix(song, { layerId: layerOf(song, 'Lead'), pan: 0.2 }), song).isMixedOtherwise).toBe(true)
  })
})

describe('versions that are kept', () => {
  test('are the song’s, newest first, as many as there is room for', async () => {
    for (let number = 1; number <= MOST_VERSIONS; number++) await keepVersion(kept(number))
    expect((await keptVersions(song.id)).slice(0, 2).map(({ name }) => name)).toEqual(['Version 100', 'Version 99'])
    await expect(keepVersion(kept(101))).rejects.toThrow(/at most 100/)
    await removeVersion('v1')
    await keepVersion(kept(101))
    expect(await keptVersions('two' as SongId)).toEqual([])
    expect((await keptVersions(song.id))[0]!.song).toEqual(song)
    await database.versions.clear()
  })

  test('one that cannot be read is left out', async () => {
    await keepVersion(kept(1))
    await database.versions.put({ ...kept(2), songId: song.id, song: { ...song, layers: 'none' } as never })
    expect((await keptVersions(song.id)).map(({ id }) => id)).toEqual(['v1'])
    await database.versions.clear()
  })

  test('keep their sounds from being cleared up, until they or their song go', async () => {
    const old = withTakes(song, 'Lead', 1, { assetId: 'old-take' as AssetId })
    await addSong(song, '2026-11-30T00:00:00.000Z')
    await database.chunks.put({ assetId: 'old-take' as AssetId, index: 0, planes: [new Float32Array(4)] })
    await keepVersion(kept(1, old))
    await sweepLeftovers()
    expect(await database.chunks.count()).toBe(1)
    await destroySong(song.id)
    expect(await keptVersions(song.id)).toEqual([])
    expect(await database.chunks.count()).toBe(0)
  })
})
