/** Song files out of storage and into it. */
import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals'
import { makeRandom } from '../core/audio/random'
import { writeSongFile } from '../core/files/song-file'
import { planPrints } from '../core/prints/plan-prints'
import { addTreatment } from '../core/song/arrangement'
import { assetsOfSong } from '../core/song/assets'
import type { AssetId, Song } from '../core/song/schema'
import { smallSong, withTakes } from '../core/song/song.test-kit'
import { database } from '../storage/database'
import { loadSong } from '../storage/songs'
import { chunksOf, readStretch, requireAsset } from '../storage/sounds'
import { ensurePrint } from './ensure-print'
import { exportSong, importSong } from './song-files'
import { storeSound } from './stored.test-kit'

const random = makeRandom(5)
const noise = (frames: number) => Float32Array.from({ length: frames }, () => 0.2 * (2 * random() - 1))
const BEAT = [noise(smallSong().beat.sourceFrames), noise(smallSong().beat.sourceFrames)]
const song: Song = addTreatment(withTakes(smallSong(), 'Lead', 1), {
  treatment: { id: 't', kind: 'far away', amount: 0.5, fadeFrames: 480, sourceStartFrame: 0, sourceEndFrame: 48_000, assetId: null },
})
const quietly = () => {}

async function exported(withPrints: boolean, of = song): Promise<Blob> {
  const result = await exportSong({ song: of, withoutMissing: false, onlyUsed: false, withPrints }, quietly)
  if (result.kind !== 'made') throw new Error(result.kind)
  return result.file
}
async function imported(file: Blob): Promise<Song> {
  const result = await importSong({ file }, quietly)
  if (result.kind !== 'imported') throw new Error(JSON.stringify(result))
  const loaded = await loadSong(result.songId)
  if (loaded.kind !== 'current') throw new Error(loaded.kind)
  return loaded.history.song
}
/** Of the song as it was, from sounds that are stored anew. */
async function exportedAgain(): Promise<Blob> {
  await storeSong()
  return exported(true)
}
const printsStored = async () => (await database.assets.toArray()).map(({ id }) => id).filter(id => id.startsWith('print-'))
const clear = () => Promise.all(database.tables.map(table => table.clear()))

async function storeSong(): Promise<void> {
  await storeSound('beat', BEAT)
  await storeSound(song.takes[0]!.assetId, [noise(song.takes[0]!.endFrame - song.takes[0]!.originFrame)])
}
beforeEach(storeSong)
afterEach(clear)

describe('a song file with what was made of its sounds', () => {
  test('brings it along: nothing has to be made again where it is opened, and it is the same to the bit', async () => {
    const file = await exported(true)
    const [print] = await printsStored()
    const [made] = await readStretch(print!, 0, 48_000)
    await clear()
    const back = await imported(file)
    expect(await printsStored()).toEqual([print])
    expect(await ensurePrint(planPrints(back)[0]!)).toEqual({ kind: 'made', assetId: print })
    expect((await readStretch(print!, 0, 48_000))[0]).toEqual(made)
    expect(back.takes.map(({ assetId }) => assetId)).not.toContain(song.takes[0]!.assetId)
  })

  test('is larger than one without, from which the same can be made', async () => {
    const [full, bare] = [await exported(true), await exported(false)]
    expect(full.size).toBeGreaterThan(bare.size + 48_000)
    await clear()
    const back = await imported(bare)
    expect(await printsStored()).toEqual([])
    expect(await ensurePrint(planPrints(back)[0]!)).toMatchObject({ kind: 'made' })
  })

  test('brings in none that the song does not ask for, and none over one that is here', async () => {
    await imported(await exported(true))
    const [print] = await printsStored()
    const plain: Song = { ...song, beat: { ...song.beat, treatments: [] } }
    const ids = [...assetsOfSong(plain), print!]
    const parts: Uint8Array<ArrayBuffer>[] = []
    const assets = await Promise.all(ids.map(async id => ({ id, facts: await requireAsset(id) })))
    await writeSongFile({ song: plain, assets, chunksOf, emit: bytes => void parts.push(bytes) })
    await clear()
    await imported(new Blob(parts))
    expect(await printsStored()).toEqual([])
    const [, own] = await readStretch((await storeSound(print!, [noise(48_000), noise(48_000)])) as AssetId, 0, 48_000)
    await imported(await exportedAgain())
    expect((await readStretch(print!, 0, 48_000))[1]).toEqual(own)
  })
})
