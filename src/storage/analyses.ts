/** Analyses, cached by the sound's hash, the algorithm and its version. */
import type { ZodType } from 'zod'
import type { AssetId } from '../core/song/schema'
import { database } from './database'
import { requireAsset } from './sounds'

/** The stored answer, or the computed one, which is then stored. */
export async function cachedAnalysis<T>(assetId: AssetId, algorithm: string, version: number, schema: ZodType<T>, compute: () => Promise<T>): Promise<T> {
  const { contentHash } = await requireAsset(assetId)
  const key = `${contentHash}:${algorithm}:${version}`
  const stored = await database.analyses.get(key)
  const parsed = stored ? schema.safeParse(stored.value) : null
  if (parsed?.success) return parsed.data
  const value = await compute()
  await database.analyses.put({ key, value })
  return value
}
