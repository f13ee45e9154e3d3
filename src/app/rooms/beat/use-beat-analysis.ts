/** What is heard in the beat, found in a worker, as its room shows it. */
import { useQuery } from '@tanstack/react-query'
import { startTransition, useDeferredValue, useEffect, useState } from 'react'
import type { BeatAnalysis } from '../../../core/beat/analyse'
import type { TempoWish } from '../../../core/beat/tempo'
import type { AssetId } from '../../../core/song/schema'
import { runJob } from '../../../workers/run-job'
import { queryClient } from '../../query-client'
import { listeningTo, NOTHING_FOUND, useListened, type Listened } from '../../song/listening'
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
  const found = useFoundSoFar(assetId)
  const arrived = query.data ?? null
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

/** Drawn when there is time for it. */
function useFoundSoFar(assetId: AssetId): Partial<BeatAnalysis> {
  const [shown, setShown] = useState(NOTHING_FOUND)
  useEffect(() => {
    let last: Partial<BeatAnalysis> | null = null
    const follow = ({ assetId: heard, found }: Listened) => {
      const current = heard === assetId ? found : NOTHING_FOUND
      if (current === last) return
      last = current
      startTransition(() => setShown(current))
    }
    follow(useListened.getState())
    return useListened.subscribe(follow)
  }, [assetId])
  return shown
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
