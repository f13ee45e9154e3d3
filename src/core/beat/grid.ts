/** The bar grid of a beat: from beats and bars to frames and back. */
import { SAMPLE_RATE_HZ } from '../audio/frames'

/** A steady tempo and where bar one begins. A beat is the beat of the metre: a quarter in x/4, a dotted quarter in 6/8 and 12/8. */
export interface Grid {
  tempoBpm: number
  barOneFrame: number
  beatsPerBar: number
}

export const TEMPO_RANGE_BPM = { min: 30, max: 300 } as const

export function framesPerBeat(grid: Grid): number {
  return (60 * SAMPLE_RATE_HZ) / grid.tempoBpm
}

/** The frame of a beat counted from bar one (0 = the first beat of bar one; may be negative or fractional), rounded to whole frames. */
export function frameOfBeat(grid: Grid, beat: number): number {
  return Math.round(grid.barOneFrame + beat * framesPerBeat(grid))
}

/** The frame where a bar begins; bars count from 1, and bar 0 is the one before bar one. */
export function frameOfBar(grid: Grid, bar: number): number {
  return frameOfBeat(grid, (bar - 1) * grid.beatsPerBar)
}

/** Beats from bar one, fractional. */
export function beatAtFrame(grid: Grid, frame: number): number {
  return (frame - grid.barOneFrame) / framesPerBeat(grid)
}

/** The bar that sounds at a frame, counted from 1. */
export function barAtFrame(grid: Grid, frame: number): number {
  // A frame is rounded from a beat, so a bar's own first frame may lie a hair before it.
  return Math.floor((beatAtFrame(grid, frame) + 1e-3) / grid.beatsPerBar) + 1
}

/** "21.2.3": bar, beat in the bar, sixteenth in the beat, all from 1. Before bar one bars count 0, -1, … */
export function formatPosition(grid: Grid, frame: number): string {
  const sixteenths = Math.floor((beatAtFrame(grid, frame) + 1e-3) * 4)
  const perBar = grid.beatsPerBar * 4
  const bar = Math.floor(sixteenths / perBar)
  const inBar = sixteenths - bar * perBar
  return `${bar + 1}.${Math.floor(inBar / 4) + 1}.${(inBar % 4) + 1}`
}

/** How many bars begin before a frame, at least 1. */
export function barCountUntil(grid: Grid, frames: number): number {
  return Math.max(1, Math.ceil(beatAtFrame(grid, frames) / grid.beatsPerBar - 0.1))
}
