/** What is proposed to even out the phrases of the selection; the whole layer is listened to for it. */
import { useMemo } from 'react'
import { phraseLevels, proposeEven, usualLufs, type EvenGain } from '../../../core/edits/even-out'
import { currentComp, requireTake } from '../../../core/song/select'
import { rangeOf, useView } from '../../song/view-store'
import { useVoices } from '../../song/voices'
import type { Line } from './use-line'

interface Even {
  gains: EvenGain[]
  /** How many there are in the selection. */
  phrases: number
  usual: number | null
  isListening: boolean
}

/** @param limitDecibels Null: nothing is proposed. */
export function useEven({ song, layer }: Line, limitDecibels: number | null): Even {
  const selection = useView(state => state.selection)
  const takes = useMemo(() => {
    const ids = limitDecibels === null ? [] : currentComp(layer).picks.map(pick => pick.takeId)
    return [...new Set(ids)].map(id => requireTake(song, id))
  }, [song, layer, limitDecibels])
  const voices = useVoices(takes)
  return useMemo(() => {
    const levels = phraseLevels(song, layer, take => voices.get(take.assetId) ?? null)
    const range = rangeOf(song, selection)
    const inRange = levels.filter(({ startFrame, endFrame }) => (startFrame + endFrame) / 2 >= range.startFrame && (startFrame + endFrame) / 2 < range.endFrame)
    const isListening = takes.some(take => !voices.has(take.assetId))
    const gains = limitDecibels === null || isListening ? [] : proposeEven(song, layer, { levels, range, limitDecibels })
    return { gains, phrases: inRange.length, usual: usualLufs(levels), isListening }
  }, [song, layer, selection, limitDecibels, takes, voices])
}
