/** The cover picture of a song, which its delivered files carry. */
import { z } from 'zod'
import type { SongId } from '../core/song/schema'
import { database } from './database'
import { keepSetting, readSetting } from './settings'

const CoverSchema = z.object({ data: z.instanceof(Uint8Array<ArrayBuffer>), mediaType: z.enum(['image/jpeg', 'image/png']) })
export type Cover = z.infer<typeof CoverSchema>
/** Players show small pictures, and each file carries it. */
export const MOST_COVER_BYTES = 2e6

const keyOf = (songId: SongId) => `cover ${songId}`

export function readCover(songId: SongId): Promise<Cover | null> {
  return readSetting(keyOf(songId), CoverSchema)
}

export async function keepCover(songId: SongId, cover: Cover): Promise<void> {
  await keepSetting(keyOf(songId), cover)
}

export async function removeCover(songId: SongId): Promise<void> {
  await database.settings.delete(keyOf(songId))
}
