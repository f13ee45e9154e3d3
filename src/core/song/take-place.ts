/** Where a take belongs, in the sheet's words: a take's useful name, never out of date because it is not stored. */
import { barAtFrame } from '../beat/grid'
import type { Song, Take } from './schema'
import { overlapFrames, placedLines } from './select'

/** A take that only touches the next bar is not in it. */
const EDGE_FRAMES = 480

/** "Hook 1, line 3", "Hook 1, lines 1 to 4", "Verse 1 to Hook 1", "bars 5 to 9". */
export function placeOfTake(song: Song, take: Pick<Take, 'startFrame' | 'endFrame'>): string {
  const covered = placedLines(song).filter(line => overlapFrames(line, take) > 0.7 * (line.endFrame - line.startFrame))
  const [first] = covered
  const last = covered[covered.length - 1]
  if (!first) {
    const { grid } = song.beat
    return `bars ${barAtFrame(grid, take.startFrame)} to ${barAtFrame(grid, take.endFrame - EDGE_FRAMES)}`
  }
  if (first.section.id !== last.section.id) return `${first.section.name} to ${last.section.name}`
  if (covered.length === 1) return `${first.section.name}, line ${first.number}`
  return `${first.section.name}, lines ${first.number} to ${last.number}`
}
