/** What is heard in the beat, found in a worker; taken into the song as it is found the first time, shown beside it afterwards. */
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import type { BeatAnalysis } from '../../../core/beat/analyse'
import type { TempoWish } from '../../../core/beat/tempo'
import { applyAnalysis } from '../../../core/song/beat-facts'
import { makeId } from '../../../storage/database'
import { runJob } from '../../../workers/run-job'
import { queryClient } from '../../query-client'
import { currentSong, editBesideHistory, useSong } from '../../song/song-store'

export interface BeatFindings {
  /** All of it once the listening is over. */
  analysis: BeatAnalysis | null
  /** What has been found so far. */
  found: Partial<BeatAnalysis>
  /** 0..1 while it is being found. */
  fraction: number | null
  failed: string | null
  /** Ended before its time by the singer. */
  stopped: boolean
  /** Ends the listening; what was found stays. */
  cancel: () => void
  listenAgain: () => void
}

export function useBeatAnalysis(): BeatFindings {
  const assetId = useSong(song => song.beat.assetId)
  const [fraction, setFraction] = useState(0)
  const [found, setFound] = useState<Partial<BeatAnalysis>>({})
  const queryKey = ['beat-analysis', assetId]
  const query = useQuery({
    queryKey,
    queryFn: async ({ signal }) => {
      const onProgress = (part: number, partial?: Partial<BeatAnalysis>) => {
        setFraction(part)
        if (!partial) return
        setFound(partial)
        take(partial)
      }
      const result = await runJob('analyseBeat', { assetId }, { onProgress, signal })
      if (result.kind === 'done') return result.value
      throw new Error(result.kind === 'failed' ? result.detail : 'cancelled')
    },
  })
  const analysis = query.data ?? null
  useEffect(() => {
    if (analysis) take(analysis)
  }, [analysis])
  return {
    analysis,
    found: analysis ?? found,
    fraction: query.fetchStatus === 'fetching' && !analysis ? fraction : null,
    failed: query.error?.message ?? null,
    stopped: !analysis && !query.error && query.fetchStatus === 'idle',
    cancel: () => void queryClient.cancelQueries({ queryKey }),
    listenAgain: () => void query.refetch(),
  }
}

/** Only what is not known yet is taken; it is no step of undo. */
function take(found: Partial<BeatAnalysis>): void {
  const song = currentSong()
  if (applyAnalysis(song, { analysis: found, makeId }) !== song) editBesideHistory(current => applyAnalysis(current, { analysis: found, makeId }))
}

/** Listens again with a wish: a trusted tempo, or a range. Nothing is asked while it is null. */
export function useWishedTempo(wish: TempoWish | null) {
  const assetId = useSong(song => song.beat.assetId)
  return useQuery({
    queryKey: ['beat-wish', assetId, wish],
    enabled: wish !== null,
    queryFn: async ({ signal }) => {
      const result = await runJob('analyseBeat', { assetId, wish: wish! }, { signal })
      if (result.kind === 'done') return result.value.tempo
      throw new Error(result.kind === 'failed' ? result.detail : 'cancelled')
    },
  })
}
