/** Which stretch is recorded, and where the transport begins before it. */
import { SAMPLE_RATE_HZ } from '../../core/audio/frames'
import { barAtFrame, barCountUntil, frameOfBar, type Grid } from '../../core/beat/grid'
import { beatsRound, placeWords } from '../../core/song/words'
import { lengthOf, type FrameRange } from '../../core/song/select'
import { currentSong } from '../song/song-store'
import { focusedLine, rangeOf, useView } from '../song/view-store'
import { useBoothSettings } from './booth-settings'
import { useRecorder } from './recorder-store'

export function recordedRange(): FrameRange {
  const song = currentSong()
  const { grid, frames } = song.beat
  const { scope } = useRecorder.getState()
  const { selection, cursorFrame } = useView.getState()
  if (scope.kind === 'bars') return { startFrame: frameOfBar(grid, scope.fromBar), endFrame: frameOfBar(grid, Math.max(scope.fromBar, scope.toBar) + 1) }
  if (scope.kind === 'word') {
    const line = focusedLine(song, selection)
    const word = line ? placeWords(line)[scope.index] : undefined
    return line && word ? beatsRound(word, line, grid) : rangeOf(song, selection)
  }
  const endOfSong = frameOfBar(grid, barCountUntil(grid, frames) + 1)
  if (scope.kind === 'from-here') return { startFrame: Math.min(cursorFrame, endOfSong), endFrame: endOfSong }
  return rangeOf(song, selection)
}

export interface Roll {
  range: FrameRange
  /** Where the transport begins: count-in, then pre-roll, then the range. */
  fromFrame: number
  preRollFrame: number
  silentBeforeFrame: number | null
  loop: FrameRange | null
  stopAtFrame: number | null
}

/** Sung on after the end is kept for this long. */
const POST_ROLL_FRAMES = SAMPLE_RATE_HZ

export function planRoll(looping: boolean): Roll {
  const { grid } = currentSong().beat
  const { countInBars, preRollBars, runOn } = useBoothSettings.getState()
  const { scope } = useRecorder.getState()
  const range = recordedRange()
  const preRollFrame = barsBefore(grid, range.startFrame, preRollBars)
  const loops = looping && scope.kind !== 'from-here' && lengthOf(range) > 0
  return {
    range,
    preRollFrame,
    fromFrame: barsBefore(grid, preRollFrame, countInBars),
    silentBeforeFrame: countInBars > 0 ? preRollFrame : null,
    loop: loops ? { startFrame: preRollFrame, endFrame: range.endFrame } : null,
    stopAtFrame: loops || runOn ? null : range.endFrame + POST_ROLL_FRAMES,
  }
}

/** The frame some bars before another that may lie inside its bar. */
function barsBefore(grid: Grid, frame: number, bars: number): number {
  if (bars === 0) return frame
  const bar = barAtFrame(grid, frame)
  return frameOfBar(grid, bar - bars) + (frame - frameOfBar(grid, bar))
}
