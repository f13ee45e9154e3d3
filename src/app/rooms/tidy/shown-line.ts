/** The line as it is drawn: where its words and notes sound, and nearer round the stretch that is looked at. */
import { useMemo } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { laterAt } from '../../../core/edits/stretch-time'
import type { FrameRange } from '../../../core/song/select'
import { useTidy } from './tidy-store'
import type { Line } from './use-line'
import type { Stretch } from './use-stretch'

/** So much of what is beside the stretch is seen with it. */
const BESIDE_FRAMES = 0.12 * SAMPLE_RATE_HZ
const LEAST_FRAMES = 0.8 * SAMPLE_RATE_HZ

export function useShownLine(line: Line, stretch: Stretch): { line: Line; stretch: Stretch } {
  const isNear = useTidy(state => state.isNear)
  return useMemo(() => {
    const sounding = whereItSounds(line, stretch)
    return isNear ? { ...sounding, line: nearer(sounding.line, sounding.stretch) } : sounding
  }, [isNear, line, stretch])
}

function whereItSounds(line: Line, stretch: Stretch): { line: Line; stretch: Stretch } {
  if (line.moves.length === 0) return { line, stretch }
  const moved = <R extends FrameRange>(range: R): R => {
    const later = (frame: number) => frame + laterAt(line.song, line.layer.id, frame)
    return { ...range, startFrame: later(range.startFrame), endFrame: later(range.endFrame) }
  }
  return { line: { ...line, notes: line.notes.map(moved), words: line.words.map(moved) }, stretch: moved(stretch) }
}

function nearer(line: Line, stretch: FrameRange): Line {
  const beside = Math.max(BESIDE_FRAMES, (LEAST_FRAMES - (stretch.endFrame - stretch.startFrame)) / 2)
  const range = { startFrame: Math.round(stretch.startFrame - beside), endFrame: Math.round(stretch.endFrame + beside) }
  const seen = (entry: FrameRange) => (entry.startFrame + entry.endFrame) / 2 > range.startFrame && (entry.startFrame + entry.endFrame) / 2 < range.endFrame
  const touched = (entry: FrameRange) => entry.startFrame < range.endFrame && entry.endFrame > range.startFrame
  return {
    ...line,
    range,
    notes: line.notes.filter(seen),
    words: line.words.filter(seen),
    mends: line.mends.filter(touched),
    gains: line.gains.filter(touched),
  }
}
