/** Stored songs and their history. */
import Dexie from 'dexie'
import { openSong, type OpenedSong } from '../core/song/open'
import type { History } from '../core/song/history'
import { assetsOfSong } from '../core/files/song-file'
import type { AssetId, Song, SongId } from '../core/song/schema'
import { database, makeId, type SongRow, type StepRow } from './database'
import { discardAsset } from './sounds'

/** What the Shelf shows of a song. */
export interface ShelfEntry {
  id: SongId
  title: string
  frames: number
  /** Null until it was found or typed. */
  tempoBpm: number | null
  key: Song['beat']['key']
  takeCount: number
  touchedAt: string
  binnedAt: string | null
}

/** All songs, last touched first. */
export async function listSongs(): Promise<ShelfEntry[]> {
  const rows = await database.songs.orderBy('touchedAt').reverse().toArray()
  return rows.map(({ id, song, touchedAt, binnedAt }) => ({
    id,
    title: song.title,
    frames: song.beat.frames,
    tempoBpm: song.beat.gridSource === 'unknown' ? null : song.beat.grid.tempoBpm,
    key: song.beat.key,
    takeCount: song.takes.filter(take => !take.binned).length,
    touchedAt,
    binnedAt,
  }))
}

export async function addSong(song: Song, now: string): Promise<void> {
  await database.songs.add({ id: song.id, song, createdAt: now, touchedAt: now, binnedAt: null, doneSteps: 0 })
}

export type LoadedSong = { kind: 'missing' } | Exclude<OpenedSong, { kind: 'current' }> | { kind: 'current'; history: History }

/** A song with its steps, checked. A history that does not fit its song is left out; the song is not. */
export async function loadSong(songId: SongId): Promise<LoadedSong> {
  const row = await database.songs.get(songId)
  if (!row) return { kind: 'missing' }
  const opened = openSong(row.song)
  if (opened.kind !== 'current') return opened
  const steps = await stepsOf(songId).toArray()
  const whole = steps.every(step => openSong(step.before).kind === 'current' && openSong(step.after).kind === 'current')
  const usable = whole ? steps.map(({ label, before, after }) => ({ label, before, after })) : []
  return { kind: 'current', history: { song: opened.song, done: usable.slice(0, row.doneSteps), undone: usable.slice(row.doneSteps) } }
}

/** Writes what changed between two states of a song's history: the song, and the steps that came or went. */
export async function keepHistory(before: History, after: History, now: string): Promise<void> {
  const songId = after.song.id
  const steps = [...after.done, ...after.undone]
  const old = [...before.done, ...before.undone]
  const unchanged = steps.findIndex((step, i) => step !== old[i])
  const from = unchanged === -1 ? steps.length : unchanged
  await database.transaction('rw', database.songs, database.steps, async () => {
    await database.songs.update(songId, { song: after.song, touchedAt: now, doneSteps: after.done.length })
    if (from < old.length) await database.steps.where('[songId+sequence]').between([songId, from], [songId, Dexie.maxKey]).delete()
    await database.steps.bulkPut(steps.slice(from).map((step, i) => ({ songId, sequence: from + i, ...step })))
  })
}

export async function setBinned(songId: SongId, binnedAt: string | null): Promise<void> {
  await database.songs.update(songId, { binnedAt })
}

export async function renameSong(songId: SongId, title: string): Promise<void> {
  const row = await database.songs.get(songId)
  if (row) await database.songs.update(songId, { song: { ...row.song, title } })
}

/** A second song over the same sounds: assets never change, so they are shared. */
export async function duplicateSong(songId: SongId, title: string, now: string): Promise<SongId | null> {
  const row = await database.songs.get(songId)
  if (!row) return null
  const id = makeId() as SongId
  await addSong({ ...row.song, id, title }, now)
  return id
}

/** Removes a song for good, with the sounds that only it used. */
export async function destroySong(songId: SongId): Promise<void> {
  const row = await database.songs.get(songId)
  if (!row) return
  const own = new Set(assetsOfSong(row.song))
  await stepsOf(songId).each(step => assetsOfStep(step).forEach(assetId => own.add(assetId)))
  for (const recording of await database.recordings.where('songId').equals(songId).toArray()) own.add(recording.id)
  await database.transaction('rw', database.songs, database.steps, database.recordings, async () => {
    await database.songs.delete(songId)
    await stepsOf(songId).delete()
    await database.recordings.where('songId').equals(songId).delete()
  })
  await discardUnused([...own])
}

/**
 * Removes what closed tabs left behind: captures that never got a place in their song (nothing was sung yet), and sounds
 * that nothing refers to. Only while no other tab is open: what that one is importing or recording looks just the same.
 */
export async function sweepLeftovers(): Promise<number> {
  const unplaced = await database.recordings.filter(row => row.placement === null).primaryKeys()
  await database.recordings.bulkDelete(unplaced)
  const stored = await Promise.all([database.chunks, database.packs].map(table => table.orderBy('assetId').uniqueKeys()))
  return discardUnused(stored.flat() as unknown as AssetId[])
}

async function discardUnused(assetIds: AssetId[]): Promise<number> {
  const wanted = new Set<AssetId>()
  await database.songs.each((row: SongRow) => assetsOfSong(row.song).forEach(assetId => wanted.add(assetId)))
  await database.steps.each(step => assetsOfStep(step).forEach(assetId => wanted.add(assetId)))
  await database.recordings.each(row => wanted.add(row.id))
  const unused = assetIds.filter(assetId => !wanted.has(assetId))
  for (const assetId of unused) await discardAsset(assetId)
  return unused.length
}

function assetsOfStep({ before, after }: StepRow): AssetId[] {
  return [...assetsOfSong(before), ...assetsOfSong(after)]
}

function stepsOf(songId: SongId) {
  return database.steps.where('[songId+sequence]').between([songId, Dexie.minKey], [songId, Dexie.maxKey])
}
