/** Takes that are tidied or tuned are listened to, and what was found in them is kept with the song, whatever room is open. */
import { useEffect, useMemo } from 'react'
import { heardOf, unheardTakes } from '../../core/edits/heard-of'
import type { Take } from '../../core/song/schema'
import type { Heard } from '../../core/song/tidy-schema'
import { noteHeard } from '../../core/song/takes'
import type { VoiceAnalysis } from '../../core/voice/analyse-voice'
import { editBesideHistory, useSong } from './song-store'
import { useVoices } from './voices'

/** Asked for with every change of the song. */
const known = new WeakMap<Take, { analysis: VoiceAnalysis; heard: Heard }>()

/** What was found in a take. */
export function heardIn(take: Take, analysis: VoiceAnalysis): Heard {
  const before = known.get(take)
  if (before?.analysis === analysis) return before.heard
  const heard = heardOf(analysis, take)
  known.set(take, { analysis, heard })
  return heard
}

/** Draws nothing. */
export function HeardTakes(): null {
  const layers = useSong(song => song.layers)
  const takes = useSong(song => song.takes)
  const unheard = useMemo(() => unheardTakes({ layers, takes }), [layers, takes])
  const voices = useVoices(unheard)
  useEffect(() => {
    const heard = new Map(unheard.flatMap(take => (voices.has(take.assetId) ? [[take.id, heardIn(take, voices.get(take.assetId)!)] as const] : [])))
    if (heard.size > 0) editBesideHistory(song => noteHeard(song, { heard }))
  }, [unheard, voices])
  return null
}
