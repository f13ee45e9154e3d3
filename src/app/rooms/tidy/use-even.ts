/** What is proposed to even out the phrases of the selection; the whole layer is listened to for it. */
import { useMemo } from 'react'
import { phraseLevels, proposeEven, type EvenProposal } from '../../../core/edits/even-out'
import { currentComp, requireTake } from '../../../core/song/select'
import { rangeOf, useView } from '../../song/view-store'
import { useVoices } from '../../song/voices'
import { useTidy } from './tidy-store'
import type { Line } from './use-line'

export interface Even extends EvenProposal {
  limitDecibels: number
  isListening: boolean
}

/** Null while nothing is proposed. */
export function useEven({ song, layer }: Line): Even | null {
  const selection = useView(state => state.selection)
  const limitDecibels = useTidy(state => state.evenDecibels)
  const isAsked = limitDecibels !== null
  const takes = useMemo(() => {
    const ids = isAsked ? currentComp(layer).picks.map(pick => pick.takeId) : []
    return [...new Set(ids)].map(id => requireTake(song, id))
  }, [song, layer, isAsked])
  const voices = useVoices(takes)
  return useMemo(() => {
    if (limitDecibels === null) return null
    const isListening = takes.some(take => !voices.has(take.assetId))
    const levels = isListening ? [] : phraseLevels(song, layer, take => voices.get(take.assetId) ?? null)
    return { ...proposeEven(song, layer, { levels, range: rangeOf(song, selection), limitDecibels }), limitDecibels, isListening }
  }, [song, layer, selection, limitDecibels, takes, voices])
}
