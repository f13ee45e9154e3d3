/** A stretch of a song by its bars. */
import { frameOfBar } from '../beat/grid'
import type { Song } from '../song/schema'
import type { FrameRange } from '../song/select'

export interface Bars {
  from: number
  /** The last one that belongs to it. */
  to: number
}
export const BARS_RANGE = { min: -100, max: 5_000 } as const

/** "5-12" or "5"; a bar before bar one is negative, as "-1-8". Null for anything else. */
export function parseBars(text: string): Bars | null {
  const match = /^\s*(-?\d{1,4})(?:\s*(?:-|–|to)\s*(-?\d{1,4}))?\s*$/.exec(text)
  if (!match) return null
  const from = Number(match[1])
  const to = match[2] === undefined ? from : Number(match[2])
  const isWithin = (bar: number) => bar >= BARS_RANGE.min && bar <= BARS_RANGE.max
  return to >= from && isWithin(from) && isWithin(to) ? { from, to } : null
}

export function rangeOfBars({ beat: { grid } }: Pick<Song, 'beat'>, { from, to }: Bars): FrameRange {
  return { startFrame: frameOfBar(grid, from), endFrame: frameOfBar(grid, to + 1) }
}
