import 'fake-indexeddb/auto'
import { afterEach, describe, expect, test } from '@jest/globals'
import Dexie from 'dexie'
import { beginHistory, record, undo, type History } from '../core/song/history'
import { setBeatMix } from '../core/mix/commands'
import { emptyBin } from '../core/song/takes'
import { setTitle } from '../core/song/title'
import { SONG_VERSION, type AssetId, type Song, type SongId } from '../core/song/schema'
import { smallSong, withTakes } from '../core/song/song.test-kit'
import { z } from 'zod'
import { cachedAnalysis } from './analyses'
import { database } from './database'
import {
  addSong,
  destroySong,
  duplicateSong,
  eraseSounds,
  findTwin,
  keepHistory,
  keepSnapshot,
  listSongs,
  loadSong,
  readRawSong,
  renameSong,
  setBinned,
} from './songs'
import { AssetWriter } from './sounds'
import { keepVersion } from './versions'

const NOW = '2026-01-01T20:00:00.000Z'
const song = { ...smallSong(), id: 'one' as SongId }

async function store(assetId: string, chunks: number): Promise<void> {
  const writer = await AssetWriter.create(assetId as AssetId, 1)
  for (let i = 0; i < chunks; i++) await writer.push([new Float32Array(12_000).fill((i + 1) / 32)])
  await writer.finish()
}

/** Which assets hold any sound. */
async function stored(): Promise<unknown[]> {
  return [...new Set((await Promise.all([database.packs, database.chunks].map(table => table.orderBy('assetId').uniqueKeys()))).flat())]
}

/** A history of `count` steps, kept step by step as the app keeps it. */
async function keepSteps(count: number): Promise<History> {
  let history = beginHistory(song)
  for (let i = 1; i <= count; i++) {
    const next = record(history, `step ${i}`, setTitle(history.song, `Title ${i}`))
    await keepHistory(history, next, NOW)
    history = next
  }
  return history
}

afterEach(() => Promise.all(database.tables.map(table => table.clear())))

describe('the Shelf', () => {
  const unknown: Song = { ...song, beat: { ...song.beat, gridSource: 'unknown' } }
  test('tells a beat in which no tempo was found from one that was not listened to yet', async () => {
    await store('beat', 2)
    await addSong(unknown, NOW)
    expect((await listSongs())[0]).toMatchObject({ tempoBpm: null, isListened: false })
    await cachedAnalysis('beat' as AssetId, 'beat', 7, z.unknown(), () => Promise.resolve({ tempo: { readings: [] } }))
    expect((await listSongs())[0]).toMatchObject({ tempoBpm: null, isListened: true })
  })
  test('notices the same beat and takes under other ids, however they are picked, and nothing that only has the same beat', async () => {
    await store('beat', 2)
    await store('copy', 2)
    await store('other', 3)
    await store('asset-1', 1)
    const sung = (id: string, assetId: string, binned = false) => ({
      ...withTakes(song, 'Lead', 1, { binned }),
      id: id as SongId,
      beat: { ...song.beat, assetId: assetId as AssetId },
    })
    await addSong(sung('first', 'beat'), NOW)
    await addSong({ ...sung('second', 'copy'), title: 'Renamed' }, NOW)
    expect(await findTwin('second' as SongId)).toMatchObject({ id: 'first', title: song.title })
    await addSong({ ...song, id: 'bare' as SongId }, NOW)
    expect(await findTwin('bare' as SongId)).toBeNull()
    await addSong(sung('else', 'other'), NOW)
    expect(await findTwin('else' as SongId)).toBeNull()
    await setBinned('first' as SongId, NOW)
    expect(await findTwin('second' as SongId)).toBeNull()
  })
})

describe('an emptied bin', () => {
  const sung = (of: Song, assetId: string, binned: boolean) => withTakes(of, 'Lead', 1, { assetId: assetId as AssetId, binned })
  test.each([
    ['nothing else', async () => {}, []],
    ['another song', () => addSong({ ...sung(song, 'gone', false), id: 'other' as SongId }, NOW), ['gone']],
    ['a version', () => keepVersion({ id: 'v1', name: 'Friday', note: '', keptAt: NOW, song: sung(song, 'gone', true) }), ['gone']],
  ])('takes its sounds with it where %s names them', async (_, alsoNames, left) => {
    await store('gone', 1)
    await store('stays', 1)
    const before = beginHistory(sung(sung(song, 'stays', false), 'gone', true))
    await addSong(before.song, NOW)
    const renamed = record(before, 'rename', setTitle(before.song, 'Later'))
    await keepHistory(before, renamed, NOW)
    await keepSnapshot(renamed, NOW)
    await alsoNames()
    const emptied = beginHistory(emptyBin(renamed.song))
    await keepHistory(renamed, emptied, NOW)
    await eraseSounds({ history: emptied, assetIds: ['gone' as AssetId] }, NOW)
    expect(new Set(await stored())).toEqual(new Set(['stays', ...left]))
    const loaded = await loadSong(song.id)
    expect(loaded).toMatchObject({ kind: 'current', history: { done: [], undone: [] }, asStored: true })
    expect(loaded.kind === 'current' && loaded.history.song.takes.map(({ assetId }) => assetId)).toEqual(['stays'])
  })
})

describe('songs', () => {
  test('a song comes back with its steps, done and undone, and a new step drops the undone ones', async () => {
    await addSong(song, NOW)
    const first = beginHistory(song)
    const second = record(first, 'turn the beat down', setBeatMix(song, { gainDecibels: -9 }))
    const third = record(second, 'pan it', setBeatMix(second.song, { pan: 0.2 }))
    const back = undo(third)
    for (const [before, after] of [
      [first, second],
      [second, third],
      [third, back],
    ] as const)
      await keepHistory(before, after, NOW)
    const loaded = await loadSong(song.id)
    expect(loaded).toEqual({ kind: 'current', history: back, rescue: { kind: 'none' }, asStored: true })
    const other = record(back, 'mute it', setBeatMix(back.song, { muted: true }))
    await keepHistory(back, other, NOW)
    expect(await loadSong(song.id)).toMatchObject({ kind: 'current', history: other })
    expect((await database.history.toArray()).map(step => step.label)).toEqual(['turn the beat down', 'mute it'])
  })

  test('the Shelf lists what it should; a copy shares its sounds until both are removed for good', async () => {
    await store('beat', 2)
    await store('asset-1', 2)
    await store('being-imported', 1)
    await addSong(withTakes(song, 'Lead', 1), NOW)
    const copyId = await duplicateSong(song.id, 'Copy', '2026-01-02T20:00:00.000Z')
    await renameSong(song.id, 'Night ferry')
    await setBinned(song.id, NOW)
    expect(await listSongs()).toMatchObject([
      { title: 'Copy', takeCount: 1, tempoBpm: 120, binnedAt: null },
      { title: 'Night ferry', binnedAt: NOW },
    ])
    await destroySong(song.id)
    expect((await stored()).sort()).toEqual(['asset-1', 'beat', 'being-imported'])
    await destroySong(copyId!)
    expect(await database.assets.toCollection().primaryKeys()).toEqual(['being-imported'])
    expect(await stored()).toEqual(['being-imported'])
  })
})

describe('a history', () => {
  test('one edit writes one row, however many steps there are, and the row does not grow with the song', async () => {
    const large = { ...withTakes(song, 'Lead', 500), id: song.id }
    await addSong(large, NOW)
    let history = beginHistory(large)
    for (let i = 1; i <= 300; i++) history = record(history, 'pan', setBeatMix(history.song, { pan: i / 400 }))
    await keepHistory(beginHistory(large), history, NOW)
    const written: unknown[] = []
    const note = (_key: unknown, row: unknown) => void written.push(row)
    database.history.hook('creating', note)
    const next = record(history, 'pan', setBeatMix(history.song, { pan: -1 }))
    await keepHistory(history, next, NOW)
    database.history.hook('creating').unsubscribe(note)
    expect(written).toHaveLength(1)
    expect(JSON.stringify(written).length).toBeLessThan(400)
    expect(await database.history.count()).toBe(301)
  })

  test('when nothing is sure of what is stored, all that memory holds is written', async () => {
    await addSong(song, NOW)
    const history = await keepSteps(5)
    await database.history.toCollection().modify({ label: 'spoiled' })
    await database.history.put({ songId: song.id, id: 99, label: 'stray', change: { kind: 'fields', fields: {} }, version: SONG_VERSION, assetIds: [] })
    await keepHistory(null, history, NOW)
    expect(await loadSong(song.id)).toMatchObject({ kind: 'current', history, asStored: true })
  })

  test('steps of another version of the document are not taken for this one', async () => {
    await addSong(song, NOW)
    const { song: now } = await keepSteps(3)
    await database.history.toCollection().modify({ version: SONG_VERSION - 1 })
    expect(await loadSong(song.id)).toMatchObject({ kind: 'current', history: { song: now, done: [], undone: [] }, asStored: false })
  })

  test('from the days when a step held two whole songs it comes over as changes, done and undone', async () => {
    await database.delete()
    const old = new Dexie('plush-layer')
    old.version(3).stores({
      songs: 'id, touchedAt',
      steps: '[songId+sequence], songId',
      assets: 'id',
      chunks: '[assetId+index], assetId',
      peaks: 'assetId',
      analyses: 'key',
      recordings: 'id, songId',
      settings: 'key',
      packs: '[assetId+index], assetId',
    })
    const titles = ['Test', 'First', 'Second', 'Third'].map(title => ({ ...song, title }))
    await old.table('songs').put({ id: song.id, song: titles[2], createdAt: NOW, touchedAt: NOW, binnedAt: null, doneSteps: 2 })
    await old
      .table('steps')
      .bulkPut([0, 1, 2].map(i => ({ songId: song.id, sequence: i, label: `to ${titles[i + 1]!.title}`, before: titles[i], after: titles[i + 1] })))
    await old.table('songs').put({ id: 'ill', song: titles[0], createdAt: NOW, touchedAt: NOW, binnedAt: null, doneSteps: 1 })
    await old.table('steps').put({ songId: 'ill', sequence: 0, label: 'unreadable', before: { version: 1, nonsense: true }, after: titles[0] })
    old.close()
    await database.open()
    const loaded = await loadSong(song.id)
    if (loaded.kind !== 'current') throw new Error(loaded.kind)
    expect(loaded.history.done.map(step => step.label)).toEqual(['to First', 'to Second'])
    expect(undo(undo(loaded.history)).song).toEqual(titles[0])
    expect(loaded.history.undone.map(step => step.label)).toEqual(['to Third'])
    expect(await loadSong('ill' as SongId)).toMatchObject({ kind: 'current', history: { song: { title: 'Test' }, done: [], undone: [] } })
  })
})

describe('a song that cannot be read', () => {
  const spoil = (document: unknown) => database.songs.update(song.id, { song: document as Song })

  test('comes back as it was at its last sound step; the bad step is gone for good and its raw document is at hand', async () => {
    await addSong(song, NOW)
    const history = await keepSteps(4)
    // As a faulty release might have written it: the last two steps hold a broken list of layers.
    const bad = { ...history.song, layers: 'none' }
    await database.history.update([song.id, 3], { change: { kind: 'fields', fields: { layers: { kind: 'value', before: song.layers, after: 'none' } } } })
    await spoil(bad)
    const loaded = await loadSong(song.id)
    expect(loaded).toMatchObject({ kind: 'current', rescue: { kind: 'stepped-back', stepsBack: 2 }, asStored: false, history: { undone: [] } })
    if (loaded.kind !== 'current') return
    expect(loaded.history.done.map(step => step.label)).toEqual(['step 1', 'step 2'])
    expect(loaded.history.song.layers).toEqual(song.layers)
    expect(JSON.parse(await readRawSong(song.id))).toMatchObject({ song: { layers: 'none' }, steps: [{ id: 1 }, { id: 2 }, { id: 3 }, { id: 4 }] })
    await keepHistory(null, loaded.history, NOW)
    expect(await loadSong(song.id)).toMatchObject({ kind: 'current', history: loaded.history, rescue: { kind: 'none' } })
  })

  test('with nothing of it left comes back as it was last opened, with the steps done since', async () => {
    await addSong(song, NOW)
    await keepSnapshot(beginHistory(song), NOW)
    const history = await keepSteps(3)
    await spoil(null)
    expect(await loadSong(song.id)).toMatchObject({ kind: 'current', rescue: { kind: 'snapshot', takenAt: NOW }, history: { song: history.song } })
  })

  test('that is only out of a limit is made to fit, and it is said', async () => {
    await addSong(song, NOW)
    await spoil({ ...song, title: 't'.repeat(500) })
    expect(await loadSong(song.id)).toMatchObject({ kind: 'current', rescue: { kind: 'mended', mends: [{ path: 'title', what: 'cut' }] } })
  })

  test('is reported, not thrown, where nothing helps; one from a later release is shown; one that is not there is missing', async () => {
    await addSong(song, NOW)
    await spoil({ ...song, layers: 'none' })
    expect(await loadSong(song.id)).toMatchObject({ kind: 'damaged', problems: [{ path: 'layers' }] })
    await spoil({ ...song, version: SONG_VERSION + 1 })
    expect(await loadSong(song.id)).toMatchObject({ kind: 'newer', version: SONG_VERSION + 1, song: { title: 'Test' } })
    expect(await loadSong('gone' as SongId)).toEqual({ kind: 'missing' })
  })

  test.each([[null], ['text'], [{ title: 7 }], [{ title: 'Half', beat: {} }]])(
    'hides no other on the Shelf, which says that it is ill (%j)',
    async document => {
      await addSong({ ...song, id: 'well' as SongId, title: 'Well' }, NOW)
      await addSong(song, NOW)
      await spoil(document)
      const listed = await listSongs()
      expect(listed.map(({ id, ill }) => [id, ill]).sort()).toEqual([
        ['one', true],
        ['well', false],
      ])
    },
  )

  test('keeps its sounds while another is removed for good', async () => {
    await store('asset-1', 1)
    await addSong({ ...withTakes(song, 'Lead', 1), id: 'other' as SongId }, NOW)
    await addSong(withTakes(song, 'Lead', 1), NOW)
    await spoil({ ...withTakes(song, 'Lead', 1), layers: 'none' })
    await destroySong('other' as SongId)
    expect(await stored()).toEqual(['asset-1'])
  })
})
