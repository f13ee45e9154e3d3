/** What is heard in the beat, found in a worker; taken into the song the first time, shown beside it afterwards. */
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import type { BeatAnalysis } from '../../../core/beat/analyse'
import { applyAnalysis } from '../../../core/song/sections'
import { makeId } from '../../../storage/database'
import { runJob } from '../../../workers/run-job'
import { editBesideHistory, useSong } from '../../song/song-store'

export interface BeatFindings {
  analysis: BeatAnalysis | null
  /** 0..1 while it is being found. */
  fraction: number | null
  failed: string | null
}

export function useBeatAnalysis(): BeatFindings {
  const assetId = useSong(song => song.beat.assetId)
  const unknown = useSong(song => song.beat.gridSource === 'unknown' || song.beat.keySource === 'unknown')
  const [fraction, setFraction] = useState(0)
  const query = useQuery({
    queryKey: ['beat-analysis', assetId],
    queryFn: async ({ signal }) => {
      const result = await runJob('analyseBeat', { assetId }, { onProgress: setFraction, signal })
      if (result.kind === 'done') return result.value
      throw new Error(result.kind === 'failed' ? result.detail : 'cancelled')
    },
  })
  const analysis = query.data ?? null
  useEffect(() => {
    if (analysis && unknown) editBesideHistory(song => applyAnalysis(song, { analysis, makeId }))
  }, [analysis, unknown])
  return { analysis, fraction: query.isPending ? fraction : null, failed: query.error?.message ?? null }
}
