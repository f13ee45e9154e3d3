/** What takes how much room, in bytes: songs by themselves, sounds that can be made again, files that were delivered. */
import { isPrint } from '../core/prints/jobs'
import { assetsOfSong } from '../core/song/assets'
import type { AssetId, SongId } from '../core/song/schema'
import { database } from './database'

export interface StorageUse {
  /** A sound that two songs share counts for both. One that cannot be read has no figure. */
  songs: ReadonlyMap<SongId, number>
  /** Prints: made again when they are asked for. */
  remade: number
  /** Files that stay with their songs; saved copies are elsewhere. */
  delivered: number
}

/** Samples are kept as 32-bit floats. */
const BYTES_A_SAMPLE = 4

export async function storageUse(): Promise<StorageUse> {
  const sizes = new Map<AssetId, number>()
  await database.assets.each(({ id, frames, channels }) => void sizes.set(id, BYTES_A_SAMPLE * frames * channels))
  const songs = new Map<SongId, number>()
  await database.songs.each(({ id, song }) => {
    try {
      songs.set(
        id,
        assetsOfSong(song).reduce((sum, assetId) => sum + (sizes.get(assetId) ?? 0), 0),
      )
    } catch {
      // An ill song is listed without it.
    }
  })
  const remade = [...sizes].reduce((sum, [id, bytes]) => sum + (isPrint(id) ? bytes : 0), 0)
  let delivered = 0
  await database.deliveries.each(({ file, bytes }) => void (delivered += file ? bytes : 0))
  return { songs, remade, delivered }
}

/** Delivered files go; what they were, and how they are made again, stays with their songs. */
export async function letDeliveredGo(): Promise<void> {
  await database.deliveries.toCollection().modify({ file: null })
}
