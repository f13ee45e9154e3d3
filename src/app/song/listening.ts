/** Listening to a beat in workers: begun as soon as its sound is stored, seen where its facts are shown. */
import { queryOptions } from '@tanstack/react-query'
import { create } from 'zustand'
import type { BeatAnalysis } from '../../core/beat/analyse'
import type { AssetId } from '../../core/song/schema'
import { runJob } from '../../workers/run-job'

export interface Listened {
  assetId: AssetId | null
  /** How much of the beat has been listened to, 0..1. */
  fraction: number
  found: Partial<BeatAnalysis>
}

export const NOTHING_FOUND: Partial<BeatAnalysis> = {}

/** How far the listening is and what it has found so far. */
export const useListened = create<Listened>(() => ({ assetId: null, fraction: 0, found: NOTHING_FOUND }))

/** All that is found in a beat. Its level is measured beside the listening. */
export function listeningTo(assetId: AssetId) {
  return queryOptions({
    queryKey: ['beat-analysis', assetId],
    queryFn: async ({ signal }): Promise<BeatAnalysis> => {
      useListened.setState({ assetId, fraction: 0, found: NOTHING_FOUND })
      const onProgress = (fraction: number, found?: Partial<BeatAnalysis>) => useListened.setState(found ? { fraction, found } : { fraction })
      // A room that is being drawn comes first: the level takes the shortest time of all.
      const measuring = untilIdle().then(() => runJob('measureBeat', { assetId }, { signal }))
      const heard = await runJob('hearBeat', { assetId }, { onProgress, signal })
      // The level may take longer: nothing that was heard waits for it.
      if (heard.kind === 'done') onProgress(1, heard.value)
      const level = await measuring
      if (heard.kind === 'done' && level.kind === 'done') return { ...heard.value, level: level.value }
      const unfinished = [heard, level].find(result => result.kind === 'failed')
      throw new Error(unfinished ? unfinished.detail : 'cancelled')
    },
  })
}

function untilIdle(): Promise<void> {
  return new Promise(resolve => requestIdleCallback(() => resolve(), { timeout: 1_000 }))
}
