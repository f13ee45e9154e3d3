/** What is heard in the beat, found in a worker, as its room shows it. */
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue } from 'react'
import type { BeatAnalysis } from '../../../core/beat/analyse'
import type { TempoWish } from '../../../core/beat/tempo'
import { runJob } from '../../../workers/run-job'
import { queryClient } from '../../query-client'
import { listeningTo, NOTHING_FOUND, useListened } from '../../song/listening'
import { useSong } from '../../song/song-store'

export interface BeatFindings {
  /** All of it once the listening is over. */
  analysis: BeatAnalysis | null
  /** What has been found so far. */
  found: Partial<BeatAnalysis>
  /** It is being found at this moment. */
  listening: boolean
  failed: string | null
  /** Ended before its time by the singer. */
  stopped: boolean
  /** Ends the listening; what was found stays. */
  cancel: () => void
  listenAgain: () => void
}

export function useBeatAnalysis(): BeatFindings {
  const assetId = useSong(song => song.beat.assetId)
  const options = listeningTo(assetId)
  const query = useQuery(options)
  const arrived = query.data ?? null
  // Drawn when there is time for it.
  const found = useDeferredValue(useListened(state => (state.assetId === assetId ? state.found : NOTHING_FOUND)))
  const analysis = useDeferredValue(arrived)
  return {
    analysis,
    found: analysis ?? found,
    listening: query.fetchStatus === 'fetching' && !arrived,
    failed: query.error?.message ?? null,
    stopped: !arrived && !query.error && query.fetchStatus === 'idle',
    cancel: () => void queryClient.cancelQueries(options),
    listenAgain: () => void query.refetch(),
  }
}

/** Listens again with a wish: a trusted tempo, or a range. Nothing is asked while it is null. */
export function useWishedTempo(wish: TempoWish | null) {
  const assetId = useSong(song => song.beat.assetId)
  return useQuery({
    queryKey: ['beat-wish', assetId, wish],
    enabled: wish !== null,
    queryFn: async ({ signal }) => {
      const result = await runJob('hearTempo', { assetId, wish: wish! }, { signal })
      if (result.kind === 'done') return result.value
      throw new Error(result.kind === 'failed' ? result.detail : 'cancelled')
    },
  })
}
