/** What the lead sings in a stretch, as whole notes on the rungs that they are meant on. */
import { useMemo } from 'react'
import { sungNotes } from '../../core/prints/sung-notes'
import type { PlacedPartNote } from '../../core/song/part-schema'
import type { Layer, Song } from '../../core/song/schema'
import { currentComp, overlapFrames, requireTake, type FrameRange } from '../../core/song/select'
import { heardIn } from './hear-takes'
import { useVoices } from './voices'

/** Null while the lead is being listened to. */
export function useLeadNotes(song: Song, lead: Layer | null, ranges: readonly FrameRange[]): PlacedPartNote[] | null {
  const takes = useMemo(() => {
    const picks = lead ? currentComp(lead).picks.filter(pick => ranges.some(range => overlapFrames(pick, range) > 0)) : []
    return picks.map(pick => requireTake(song, pick.takeId))
  }, [song, lead, ranges])
  const voices = useVoices(takes)
  return useMemo(() => {
    if (!lead || takes.some(take => !take.heard && !voices.has(take.assetId))) return lead ? null : []
    const heardOf = (id: string) => {
      const take = takes.find(entry => entry.id === id)
      const analysis = take && voices.get(take.assetId)
      return analysis ? heardIn(take, analysis) : null
    }
    return sungNotes(song, lead, ranges, heardOf)
  }, [song, lead, ranges, takes, voices])
}
