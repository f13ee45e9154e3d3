/** What is heard in the beat is taken into the song as it is found, whatever room is open. */
import { useQuery } from '@tanstack/react-query'
import { startTransition, useEffect } from 'react'
import type { BeatAnalysis } from '../../core/beat/analyse'
import { applyAnalysis } from '../../core/song/beat-facts'
import { makeId } from '../../storage/database'
import { listeningTo, useListened } from './listening'
import { useLive } from './live'
import { currentSong, editBesideHistory, useSong } from './song-store'

/** Draws nothing. Bars do not move under a voice that is being recorded: what is heard meanwhile is taken after it. */
export function HeardFacts(): null {
  const assetId = useSong(song => song.beat.assetId)
  const all = useQuery({ ...listeningTo(assetId), enabled: false }).data
  useEffect(() => {
    let taken: Partial<BeatAnalysis> | null = null
    const follow = () => {
      const { assetId: heard, found } = useListened.getState()
      const known = all ?? (heard === assetId ? found : null)
      if (!known || known === taken || useLive.getState().recording) return
      taken = known
      take(known)
    }
    follow()
    const forget = [useListened.subscribe(follow), useLive.subscribe(follow)]
    return () => forget.forEach(stop => stop())
  }, [assetId, all])
  return null
}

/** Only what is not known yet is taken; it is no step of undo. Much is drawn anew by it: keys and sound go before. */
function take(found: Partial<BeatAnalysis>): void {
  const before = currentSong()
  const after = applyAnalysis(before, { analysis: found, makeId })
  if (after !== before) startTransition(() => void editBesideHistory(() => after))
}
