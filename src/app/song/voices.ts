/** What was read off sung takes: listened to once, one take after the other, and remembered. */
import { useQueries } from '@tanstack/react-query'
import { useMemo } from 'react'
import { SAMPLE_RATE_HZ } from '../../core/audio/frames'
import type { AnalysedTake } from '../../core/comp/quiet-places'
import type { AssetId, Take } from '../../core/song/schema'
import type { Sung } from '../../core/song/words'
import type { VoiceAnalysis } from '../../core/voice/analyse-voice'
import { readVoiceAnalysis } from '../../storage/analyses'
import { runJob } from '../../workers/run-job'
import { queryClient } from '../query-client'

/** Takes wait here; the one asked for last is in view and goes first. */
const waiting: (() => Promise<void>)[] = []
let listening = false

async function listenNext(): Promise<void> {
  if (listening) return
  listening = true
  for (let next = waiting.pop(); next; next = waiting.pop()) await next()
  listening = false
}

export const voiceQuery = (assetId: AssetId) => ({
  queryKey: ['voice', assetId],
  queryFn: async (): Promise<VoiceAnalysis | null> => {
    const stored = await readVoiceAnalysis(assetId)
    if (stored) return stored
    return new Promise(resolve => {
      waiting.push(async () => {
        const result = await runJob('analyseVoice', { assetId })
        resolve(result.kind === 'done' ? result.value : null)
      })
      void listenNext()
    })
  },
  staleTime: Infinity,
})

/** Those of the takes that were listened to; the others are listened to meanwhile. */
export function useVoices(takes: readonly Take[]): ReadonlyMap<AssetId, VoiceAnalysis> {
  // Told apart by what they name: the list is made anew with every change of the song.
  const names = [...new Set(takes.map(take => take.assetId))].join(' ')
  const assets = useMemo(() => names.split(' ').filter(Boolean) as AssetId[], [names])
  const found = useQueries({ queries: assets.map(voiceQuery), combine: combineVoices })
  return useMemo(() => new Map(assets.flatMap((id, i) => (found[i] ? [[id, found[i]] as const] : []))), [assets, found])
}

function combineVoices(results: { data?: VoiceAnalysis | null | undefined }[]): (VoiceAnalysis | null)[] {
  return results.map(result => result.data ?? null)
}

/** Where one asks for what was read off a take; null for one that was not listened to. */
export type VoiceOf = (assetId: AssetId) => VoiceAnalysis | null

/** What is known at this moment. */
export const knownVoice: VoiceOf = assetId => queryClient.getQueryData<VoiceAnalysis | null>(voiceQuery(assetId).queryKey) ?? null

/** A take as it was listened to; null until then. `nudgeFrames` later than it was sung. */
export function analysedTake(take: Take, nudgeFrames = 0, voiceOf: VoiceOf = knownVoice): AnalysedTake | null {
  const analysis = voiceOf(take.assetId)
  return analysis ? { analysis, originFrame: take.originFrame + nudgeFrames } : null
}

/** Phrases and onsets in song frames, to place words by. */
export function sungBy({ analysis, originFrame }: AnalysedTake): Sung {
  const frame = (seconds: number) => Math.round(originFrame + seconds * SAMPLE_RATE_HZ)
  return {
    phrases: analysis.phrases.map(phrase => ({ startFrame: frame(phrase.startSeconds), endFrame: frame(phrase.endSeconds) })),
    onsetFrames: analysis.onsetSeconds.map(frame),
  }
}
