/** Loops the words that are chosen, as the voice sings them, with what rings on after them. */
import { useEffect, useState } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { wordsSung } from '../../../core/mix/words-sung'
import type { WordRange } from '../../../core/song/anchor'
import type { Layer, Song } from '../../../core/song/schema'
import type { FrameRange, PlacedLine } from '../../../core/song/select'
import { Pill } from '../../shared/parts'
import { play } from '../../song/live'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'

/** Heard before the first of them, and after the last. */
const BEFORE_FRAMES = 0.1 * SAMPLE_RATE_HZ
const AFTER_FRAMES = 0.4 * SAMPLE_RATE_HZ

function rangeOfWords(song: Song, layer: Layer, placed: PlacedLine, words: WordRange | null): FrameRange {
  const sung = words ? wordsSung(song, layer, placed).slice(words.from, words.to + 1) : []
  const { startFrame, endFrame } = sung.length > 0 ? { startFrame: sung[0]!.startFrame, endFrame: sung.at(-1)!.endFrame } : placed
  return { startFrame: Math.max(0, Math.round(startFrame - BEFORE_FRAMES)), endFrame: Math.round(endFrame + AFTER_FRAMES) }
}

interface OnlyWordsProps {
  size?: 'xs' | 'sm'
  layer: Layer
  placed: PlacedLine
  /** Null: the whole line. */
  words: WordRange | null
}

export function OnlyWords({ size = 'sm', layer, placed, words }: OnlyWordsProps) {
  const song = useSong(current => current)
  const [on, setOn] = useState(false)
  const { startFrame, endFrame } = rangeOfWords(song, layer, placed, words)
  useEffect(() => {
    if (!on) return
    useView.setState({ loopRange: { startFrame, endFrame }, looping: true, cursorFrame: startFrame })
    void play(startFrame)
    return () => useView.setState({ loopRange: null })
  }, [on, startFrame, endFrame])
  return (
    <Pill size={size} chosen={on} onClick={() => setOn(!on)}>
      Only these words
    </Pill>
  )
}
