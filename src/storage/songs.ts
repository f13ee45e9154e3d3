/** Stored songs and their history. */
import Dexie from 'dexie'
import { z } from 'zod'
import { applyChange } from '../core/song/change'
import { assetsOfStep, type History, type Step } from '../core/song/history'
import type { Mend } from '../core/song/mend'
import { openSong, type OpenedSong } from '../core/song/open'
import { SONG_VERSION, type AssetId, type Song, type SongId } from '../core/song/schema'
import { removeCover } from './covers'
import { database, makeId, type SnapshotRow, type SongRow, type StepRow } from './database'
import { hasAnalysis } from './analyses'
import { recentPrints } from './prints'
import { discardAsset } from './sounds'

/** What the Shelf shows of a song. */
export interface ShelfEntry {
  id: SongId
  title: string
  frames: number
  /** Null until it was found or typed. */
  tempoBpm: number | null
  /** Whether its beat was listened to; then a tempo that is null was not found. */
  isListened: boolean
  key: Song['beat']['key']
  takeCount: number
  touchedAt: string
  binnedAt: string | null
  /** Its row cannot be read: only its id and dates are sure. */
  ill: boolean
}

/** All songs, last touched first. One that cannot be read is listed as ill and hides no other. */
export async function listSongs(): Promise<ShelfEntry[]> {
  const rows = await database.songs.orderBy('touchedAt').reverse().toArray()
  const listened = await Promise.all(rows.map(row => isBeatListened(row.song).catch(() => false)))
  return rows.map((row, i) => {
    const { id, touchedAt, binnedAt } = row
    const isListened = listened[i]!
    try {
      return { id, touchedAt, binnedAt, isListened, ill: false, ...factsOf(row.song) }
    } catch {
      const title = (row.song as { title?: unknown } | null)?.title
      return {
        id,
        touchedAt,
        binnedAt,
        isListened,
        ill: true,
        title: typeof title === 'string' ? title : 'A song',
        frames: 0,
        tempoBpm: null,
        key: null,
        takeCount: 0,
      }
    }
  })
}

async function isBeatListened({ beat }: Song): Promise<boolean> {
  if (beat.gridSource !== 'unknown') return true
  const asset = await database.assets.get(beat.assetId)
  return asset !== undefined && (await hasAnalysis(asset.contentHash, 'beat'))
}

/** Another song on the Shelf with the same beat and the same takes, sample by sample; null if there is none. */
export async function findTwin(songId: SongId): Promise<Pick<ShelfEntry, 'id' | 'title' | 'touchedAt'> | null> {
  const rows = await database.songs.toArray()
  const own = rows.find(row => row.id === songId)
  if (!own) return null
  const sounds = await soundsOf(own.song)
  for (const row of rows) {
    if (row.id === songId || row.binnedAt !== null) continue
    const others = await soundsOf(row.song).catch(() => null)
    if (others === sounds) return { id: row.id, title: row.song.title, touchedAt: row.touchedAt }
  }
  return null
}

/** Names the sounds of a song by what they hold. */
async function soundsOf({ beat, takes }: Song): Promise<string> {
  const ids = [beat.assetId, ...new Set(takes.map(take => take.assetId))]
  const assets = await database.assets.bulkGet(ids)
  const [beatHash, ...hashes] = assets.map(asset => asset?.contentHash ?? 'missing')
  return [beatHash, ...hashes.sort()].join(' ')
}

/** @throws TypeError if the document has not the shape of a song. */
function factsOf({ title, beat, takes }: Song): Pick<ShelfEntry, 'title' | 'frames' | 'tempoBpm' | 'key' | 'takeCount'> {
  const tempoBpm = beat.gridSource === 'unknown' ? null : beat.grid.tempoBpm
  return { title: title.slice(0), frames: beat.frames, tempoBpm, key: beat.key, takeCount: takes.filter(take => !take.binned).length }
}

/** All but those in the bin, as they are stored. */
export async function standingSongs(): Promise<SongRow[]> {
  return database.songs.filter(row => row.binnedAt === null).toArray()
}

export async function addSong(song: Song, now: string): Promise<void> {
  await database.songs.add({ id: song.id, song, createdAt: now, touchedAt: now, binnedAt: null, position: 0 })
}

/** What had to be done to open a stored song; `raw` is all that was stored of it, as text. */
export type Rescue =
  | { kind: 'none' }
  | (({ kind: 'mended'; mends: Mend[] } | { kind: 'stepped-back'; stepsBack: number } | { kind: 'snapshot'; takenAt: string }) & { raw: string })

/** `asStored`: the history is what the rows say; otherwise the next write must write all of it. */
export type LoadedSong =
  { kind: 'missing' } | Exclude<OpenedSong, { kind: 'current' }> | { kind: 'current'; history: History; rescue: Rescue; asStored: boolean }

/** A song with its steps, checked. One that cannot be read comes back as it was at its last sound step, or else when it was last opened. */
export async function loadSong(songId: SongId): Promise<LoadedSong> {
  const row = await database.songs.get(songId)
  if (!row) return { kind: 'missing' }
  const opened = openSong(row.song)
  if (opened.kind === 'newer') return opened
  const rows = await stepsOf(songId).toArray()
  // Steps of another version of the document do not fit this one.
  const steps = rows.every(step => StepSchema.safeParse(step).success && step.version === SONG_VERSION)
    ? rows.map(({ id, label, change }): Step => ({ id, label, change }))
    : []
  const history = (song: Song, steps: readonly Step[], position: number): History => ({
    song,
    done: steps.filter(step => step.id <= position),
    undone: steps.filter(step => step.id > position),
  })
  if (opened.kind === 'current' && opened.mends.length === 0)
    return { kind: 'current', history: history(opened.song, steps, row.position), rescue: { kind: 'none' }, asStored: steps.length === rows.length }
  const raw = rawSong(row, rows)
  if (opened.kind === 'current')
    return { kind: 'current', history: history(opened.song, steps, row.position), rescue: { kind: 'mended', mends: opened.mends, raw }, asStored: false }
  // What is taken back here must not be redone: it is what made the song unreadable.
  const done = steps.filter(step => step.id <= row.position)
  const back = stepBack(row.song, done)
  if (back)
    return {
      kind: 'current',
      history: history(back.song, done.slice(0, -back.stepsBack), row.position),
      rescue: { kind: 'stepped-back', stepsBack: back.stepsBack, raw },
      asStored: false,
    }
  const snapshot = await database.snapshots.get(songId)
  const reached = snapshot && goForward(snapshot, done)
  if (snapshot && reached)
    return {
      kind: 'current',
      history: history(
        reached.song,
        done.filter(step => step.id <= reached.position),
        reached.position,
      ),
      rescue: { kind: 'snapshot', takenAt: snapshot.takenAt, raw },
      asStored: false,
    }
  return opened
}

const StepSchema = z.looseObject({
  id: z.number().int(),
  label: z.string(),
  version: z.number().int(),
  change: z.looseObject({ kind: z.enum(['value', 'fields', 'items']) }),
})

/** The document with step after step taken back until it can be read; null if it never can. */
function stepBack(song: unknown, done: readonly Step[]): { song: Song; stepsBack: number } | null {
  let document = song
  for (let stepsBack = 1; stepsBack <= done.length; stepsBack++) {
    const { change } = done[done.length - stepsBack]!
    const before = attempt(() => openSong((document = applyChange(document, change, 'before'))))
    if (before?.kind === 'current') return { song: before.song, stepsBack }
  }
  return null
}

/** The song as it was last opened, with the steps done since as far as they go; null if it cannot be read either. */
function goForward(snapshot: SnapshotRow, done: readonly Step[]): { song: Song; position: number } | null {
  const opened = openSong(snapshot.song)
  if (opened.kind !== 'current') return null
  const reached = { song: opened.song, position: snapshot.position }
  for (const step of done.filter(({ id }) => id > snapshot.position)) {
    const after = attempt(() => openSong(applyChange(reached.song, step.change, 'after')))
    if (after?.kind !== 'current') break
    Object.assign(reached, { song: after.song, position: step.id })
  }
  return reached
}

/** Null where a document is too far gone even to be looked into. */
function attempt<T>(act: () => T): T | null {
  try {
    return act()
  } catch {
    return null
  }
}

/** All that is stored of a song but its sounds, readable or not, to be saved as a file. */
export async function readRawSong(songId: SongId): Promise<string> {
  return rawSong(await database.songs.get(songId), await stepsOf(songId).toArray())
}

function rawSong(row: SongRow | undefined, steps: readonly StepRow[]): string {
  return JSON.stringify({ ...row, steps }, null, 1)
}

/** A song that was opened and is sound is kept aside as it is. */
export async function keepSnapshot({ song, done }: History, now: string): Promise<void> {
  await database.snapshots.put({ songId: song.id, song, position: done.at(-1)?.id ?? 0, takenAt: now })
}

/**
 * Writes what differs between what is stored of a song's history and what it is now: the song, and the steps that came or went. Usually that is one step.
 * @param kept What is known to be stored; null if nothing is sure: then all is written.
 */
export async function keepHistory(kept: History | null, now: History, at: string): Promise<void> {
  const songId = now.song.id
  const steps = [...now.done, ...now.undone]
  const stored = new Set(kept ? [...kept.done, ...kept.undone] : [])
  const wanted = new Set(steps.map(step => step.id))
  const gone = [...stored].filter(step => !wanted.has(step.id)).map(step => step.id)
  const rows = steps.filter(step => !stored.has(step)).map((step): StepRow => ({ ...step, songId, version: SONG_VERSION, assetIds: assetsOfStep(step) }))
  await database.transaction('rw', database.songs, database.history, async () => {
    await database.songs.update(songId, { song: now.song, touchedAt: at, position: now.done.at(-1)?.id ?? 0 })
    if (!kept) await stepsOf(songId).delete()
    await database.history.bulkDelete(gone.map(id => [songId, id] as [SongId, number]))
    await database.history.bulkPut(rows)
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
  const own = new Set(assetsNamedBy(row.song))
  await stepsOf(songId).each(step => step.assetIds.forEach(assetId => own.add(assetId)))
  const versions = database.versions.where('[songId+keptAt]').between([songId, Dexie.minKey], [songId, Dexie.maxKey])
  await versions.each(({ song }) => assetsNamedBy(song).forEach(assetId => own.add(assetId)))
  for (const recording of await database.recordings.where('songId').equals(songId).toArray()) own.add(recording.id)
  await database.transaction(
    'rw',
    [database.songs, database.history, database.snapshots, database.recordings, database.deliveries, database.versions],
    async () => {
      await database.songs.delete(songId)
      await database.deliveries.where('[songId+madeAt]').between([songId, Dexie.minKey], [songId, Dexie.maxKey]).delete()
      await database.snapshots.delete(songId)
      await versions.delete()
      await stepsOf(songId).delete()
      await database.recordings.where('songId').equals(songId).delete()
    },
  )
  await removeCover(songId)
  await discardUnused([...own])
}

/** Removes sounds that a song named and names no more; those stay that anything else names: a step, a version, another song. @returns how many went. */
export async function eraseSounds({ history, assetIds }: { history: History; assetIds: readonly AssetId[] }, now: string): Promise<number> {
  // What was kept aside when the song was opened would name them as well.
  await keepSnapshot(history, now)
  return discardUnused([...new Set(assetIds)])
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
  await database.songs.each(({ song }: SongRow) => assetsNamedBy(song).forEach(assetId => wanted.add(assetId)))
  // From the index alone: no step is read for it.
  for (const assetId of await database.history.orderBy('assetIds').uniqueKeys()) wanted.add(assetId as unknown as AssetId)
  for (const table of [database.snapshots, database.versions] as const)
    await table.each(({ song }: { song: unknown }) => assetsNamedBy(song).forEach(assetId => wanted.add(assetId)))
  await database.recordings.each(row => wanted.add(row.id))
  for (const assetId of await recentPrints()) wanted.add(assetId)
  const unused = assetIds.filter(assetId => !wanted.has(assetId))
  for (const assetId of unused) await discardAsset(assetId)
  return unused.length
}

/** All that a document names, however ill it is: nothing that an unreadable song plays may go. */
function assetsNamedBy(document: unknown): AssetId[] {
  return assetsOfStep({ change: { kind: 'value', after: document } })
}

function stepsOf(songId: SongId) {
  return database.history.where('[songId+id]').between([songId, Dexie.minKey], [songId, Dexie.maxKey])
}
