/** A slider on a number of the song: heard while it moves, one step of undo when it is let go. */
import { useCallback } from 'react'
import type { Song } from '../../core/song/schema'
import { edit, tryOut } from '../song/song-store'
import { ValueSlider, type ValueSliderProps } from './value-slider'

interface SongSliderProps extends Omit<ValueSliderProps, 'onTry' | 'onKeep' | 'onDrop'> {
  /** How undo names the step. */
  stepLabel: string
  command: (song: Song, value: number) => Song
}

export function SongSlider({ stepLabel, command, ...slider }: SongSliderProps) {
  const attempt = useCallback((tried: number) => tryOut(song => command(song, tried)), [command])
  const keep = useCallback((kept: number) => edit(stepLabel, song => command(song, kept)), [command, stepLabel])
  const drop = useCallback(() => tryOut(null), [])
  return <ValueSlider {...slider} onTry={attempt} onKeep={keep} onDrop={drop} />
}
