/** Files that were delivered of a song: what they were made from and how, and, as long as there is room for them, the files. */
import Dexie from 'dexie'
import { z } from 'zod'
import type { SongId } from '../core/song/schema'
import { database } from './database'

/** Checked when it is read; what was asked for and what was told of it are its maker's to know. */
const KeptDeliverySchema = z.object({
  id: z.string(),
  songId: z.string(),
  /** Files that were asked for at once have one. */
  version: z.number().int().min(1),
  madeAt: z.string(),
  /** The last step that was done to the song by then; 0 for none. */
  position: z.number().int(),
  fileName: z.string(),
  asked: z.unknown(),
  report: z.unknown(),
  bytes: z.number(),
  /** Null once there was no more room for it. */
  file: z.instanceof(Blob).nullable(),
})
export type KeptDelivery = z.infer<typeof KeptDeliverySchema>

/** Of a song: older ones are forgotten. */
const MOST_KEPT = 60
/** Of a song's files together; the oldest go first. */
const MOST_BYTES = 600e6

/** Newest first; one that cannot be read is left out. */
export async function keptDeliveries(songId: SongId): Promise<KeptDelivery[]> {
  const rows = await ofSong(songId).toArray()
  return rows.reverse().flatMap(row => KeptDeliverySchema.safeParse(row).data ?? [])
}

/** Keeps one, and lets go of what there is no more room for. */
export async function keepDelivery(delivery: KeptDelivery): Promise<void> {
  await database.transaction('rw', database.deliveries, async () => {
    await database.deliveries.put(delivery)
    const rows = (await ofSong(delivery.songId as SongId).toArray()).reverse()
    let bytes = 0
    for (const [i, row] of rows.entries()) {
      bytes += row.file ? row.bytes : 0
      if (i >= MOST_KEPT) await database.deliveries.delete(row.id)
      else if (row.file && bytes > MOST_BYTES && i > 0) await database.deliveries.update(row.id, { file: null })
    }
  })
}

export async function forgetDelivery(id: string): Promise<void> {
  await database.deliveries.delete(id)
}

function ofSong(songId: SongId) {
  return database.deliveries.where('[songId+madeAt]').between([songId, Dexie.minKey], [songId, Dexie.maxKey])
}
