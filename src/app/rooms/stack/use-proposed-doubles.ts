/** Which free takes could double the lead in the selected lines: looked for anew when what could be used changes, and not for every fader that moves. */
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { DoublesWish } from '../../../core/stack/line-offers'
import type { DoublesProposal } from '../../../core/stack/propose-doubles'
import type { Song } from '../../../core/song/schema'
import { currentComp } from '../../../core/song/select'
import { runJob } from '../../../workers/run-job'
import { currentSong } from '../../song/song-store'

export type Looked = { kind: 'looking'; fraction: number } | { kind: 'found'; proposal: DoublesProposal } | { kind: 'failed'; again: () => void }

/** @param wish Null where there is nothing to ask. */
export function useProposedDoubles(song: Song, wish: DoublesWish | null): Looked {
  const [fraction, setFraction] = useState(0)
  const query = useQuery({
    queryKey: ['doubles', JSON.stringify(wish), whatCouldBeUsed(song)],
    queryFn: async ({ signal }) => {
      setFraction(0)
      const result = await runJob('proposeDoubles', { song: currentSong(), wish: wish! }, { onProgress: setFraction, signal })
      if (result.kind !== 'done') throw new Error(result.kind)
      return result.value
    },
    enabled: wish !== null && wish.layerIds.length > 0 && wish.lineIds.length > 0,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  })
  if (query.data) return { kind: 'found', proposal: query.data }
  return query.isError ? { kind: 'failed', again: () => void query.refetch() } : { kind: 'looking', fraction }
}

/** Takes and where they lie, what is picked, the lines and the key. */
function whatCouldBeUsed({ takes, layers, sections, beat }: Song): string {
  return JSON.stringify([
    takes.map(({ id, layerId, originFrame, startFrame, endFrame, binned }) => [id, layerId, originFrame, startFrame, endFrame, binned]),
    layers.map(layer => [
      layer.id,
      layer.role,
      currentComp(layer).locked,
      currentComp(layer).picks.map(pick => [pick.takeId, pick.startFrame, pick.endFrame, pick.nudgeFrames]),
    ]),
    sections.map(section => [section.startBar, section.lines]),
    [beat.grid, beat.key, beat.tuningCents],
  ])
}
