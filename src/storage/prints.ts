/** Stored prints: sounds that can be made again at any time, and so can go at any time. */
import { isPrint } from '../core/prints/jobs'
import type { AssetId } from '../core/song/schema'
import { database } from './database'
import { discardAsset } from './sounds'

/** A print that was not asked for in so long is made again when it is. */
const KEPT_DAYS = 30

/** It is asked for. */
export async function notePrint(assetId: AssetId, now = Date.now()): Promise<void> {
  await database.prints.put({ assetId, askedAt: now })
}

/** Those that may still be asked for soon. */
export async function recentPrints(now = Date.now()): Promise<AssetId[]> {
  return database.prints
    .where('askedAt')
    .above(now - KEPT_DAYS * 86_400_000)
    .primaryKeys()
}

/** All of them go: nothing is lost by it but the time to make them again. */
export async function emptyPrints(): Promise<void> {
  await database.prints.clear()
  for (const assetId of await database.assets.toCollection().primaryKeys()) if (isPrint(assetId)) await discardAsset(assetId)
}
