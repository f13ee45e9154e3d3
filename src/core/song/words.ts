/** Where the words of a line lie, as far as it is known: spread evenly, the last beat or so left to breathe. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { beatAtFrame, frameOfBeat, framesPerBeat, type Grid } from '../beat/grid'
import type { FrameRange, PlacedLine } from './select'

export interface PlacedWord extends FrameRange {
  word: string
}

/** Share of the line that its words fill. */
const SUNG_SHARE = 0.86

/** In order; none for a line without words. */
export function placeWords(placed: PlacedLine): PlacedWord[] {
  const words = placed.line.words.split(/\s+/).filter(Boolean)
  const each = ((placed.endFrame - placed.startFrame) * SUNG_SHARE) / words.length
  return words.map((word, i) => ({ word, startFrame: Math.round(placed.startFrame + i * each), endFrame: Math.round(placed.startFrame + (i + 1) * each) }))
}

/** What to sing again for one word: whole beats round it, a second of them at least, inside its line. */
export function beatsRound(word: FrameRange, line: FrameRange, grid: Grid): FrameRange {
  const first = Math.floor(beatAtFrame(grid, word.startFrame) + 1e-6)
  const last = Math.max(first + Math.ceil(SAMPLE_RATE_HZ / framesPerBeat(grid)), Math.ceil(beatAtFrame(grid, word.endFrame) - 1e-6))
  return { startFrame: Math.max(line.startFrame, frameOfBeat(grid, first)), endFrame: Math.min(line.endFrame, frameOfBeat(grid, last)) }
}
