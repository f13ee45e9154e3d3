/** Where things lie on the ladder. */
import type { NoteInSong } from '../../../core/prints/laid-in'
import type { Line } from './use-line'

export const HEIGHT = 300
const TOP = 30
/** Under the notes lies the level, and under that the marks of the mends. */
const BOTTOM = 82
export const LEVEL_Y = HEIGHT - 44
export const LEVEL_HALF = 20
const PIXELS_A_DECIBEL = 1.6
export const LEFT = 46
export const RIGHT = 10
/** Of the ladder beyond its highest and its lowest note. */
const BEYOND_CENTS = 160
const LEAST_CENTS = 900

export interface Frame {
  x: (frame: number) => number
  /** Which frame of the song lies there. */
  at: (x: number) => number
  y: (cents: number) => number
  low: number
  high: number
  /** Where it ends, in pixels. */
  right: number
}

export function frameOf({ range, notes }: Pick<Line, 'range' | 'notes'>, width: number): Frame {
  const heights = notes.flatMap(({ note, rungCents, drawnToCents }) => [note.cents, drawnToCents, rungCents ?? note.cents])
  const middle = heights.length > 0 ? (Math.min(...heights) + Math.max(...heights)) / 2 : 6_000
  const half = Math.max(LEAST_CENTS / 2, heights.length > 0 ? Math.max(...heights) - middle + BEYOND_CENTS : 0)
  const [low, high] = [middle - half, middle + half]
  return {
    x: frame => LEFT + ((frame - range.startFrame) / (range.endFrame - range.startFrame)) * (width - LEFT - RIGHT),
    at: x => range.startFrame + ((x - LEFT) / (width - LEFT - RIGHT)) * (range.endFrame - range.startFrame),
    y: cents => TOP + ((high - cents) / (high - low)) * (HEIGHT - TOP - BOTTOM),
    low,
    high,
    right: width - RIGHT,
  }
}

/** From what was sung to where it is drawn. */
export function heightsOf(note: NoteInSong, frame: Frame): [top: number, bottom: number] {
  const { note: sung, drawnToCents } = note
  return [frame.y(Math.max(sung.cents, drawnToCents)), frame.y(Math.min(sung.cents, drawnToCents))]
}

/** Where a gain is drawn over the level. */
export function levelY(gainDecibels: number): number {
  return LEVEL_Y - Math.max(-LEVEL_HALF, Math.min(LEVEL_HALF, PIXELS_A_DECIBEL * gainDecibels))
}
