/** Analyses, cached by the sound's hash, the algorithm and its version. */
import { z, type ZodType } from 'zod'
import type { AssetId } from '../core/song/schema'
import { VOICE_ANALYSIS_VERSION, type VoiceAnalysis } from '../core/voice/analyse-voice'
import { database } from './database'
import { requireAsset } from './sounds'

const VoiceAnalysisSchema = z.custom<VoiceAnalysis>(value => typeof value === 'object' && value !== null && 'f0Hz' in value)

/** What was read off a take before; null if it was not listened to. */
export async function readVoiceAnalysis(assetId: AssetId): Promise<VoiceAnalysis | null> {
  const asset = await database.assets.get(assetId)
  const stored = asset ? await database.analyses.get(`${asset.contentHash}:voice:${VOICE_ANALYSIS_VERSION}`) : undefined
  const parsed = VoiceAnalysisSchema.safeParse(stored?.value)
  return parsed.success ? parsed.data : null
}

/** What is read off a take: stored, or computed and then stored. */
export function cachedVoiceAnalysis(assetId: AssetId, compute: () => Promise<VoiceAnalysis>): Promise<VoiceAnalysis> {
  return cachedAnalysis(assetId, 'voice', VOICE_ANALYSIS_VERSION, VoiceAnalysisSchema, compute)
}

/** Whether a sound was listened to by an algorithm, in any of its versions. */
export async function hasAnalysis(contentHash: string, algorithm: string): Promise<boolean> {
  return (await database.analyses.where('key').startsWith(`${contentHash}:${algorithm}:`).count()) > 0
}

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
