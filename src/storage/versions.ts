/** States of a song that were kept under a name; their sounds are the song's. */
import Dexie from 'dexie'
import { openSong } from '../core/song/open'
import type { Song, SongId } from '../core/song/schema'
import { database } from './database'

export interface KeptVersion {
  id: string
  name: string
  note: string
  keptAt: string
  song: Song
}

export const MOST_VERSIONS = 100

/** Newest first; one that cannot be read any more is left where it is, and out. */
export async function keptVersions(songId: SongId): Promise<KeptVersion[]> {
  const rows = await versionsOf(songId).toArray()
  return rows.reverse().flatMap(({ id, name, note, keptAt, song }) => {
    const opened = openSong(song)
    return opened.kind === 'current' ? [{ id, name, note, keptAt, song: opened.song }] : []
  })
}

/** @throws RangeError if there are as many as can be. */
export async function keepVersion({ id, name, note, keptAt, song }: KeptVersion): Promise<void> {
  if ((await versionsOf(song.id).count()) >= MOST_VERSIONS) throw new RangeError(`a song keeps at most ${MOST_VERSIONS} versions`)
  await database.versions.put({ id, songId: song.id, name: name.slice(0, 120), note: note.slice(0, 500), keptAt, song })
}

export async function removeVersion(id: string): Promise<void> {
  await database.versions.delete(id)
}

function versionsOf(songId: SongId) {
  return database.versions.where('[songId+keptAt]').between([songId, Dexie.minKey], [songId, Dexie.maxKey])
}
