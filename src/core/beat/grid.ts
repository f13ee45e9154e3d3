/** The bar grid of a beat: from beats and bars to frames and back. */
import { SAMPLE_RATE_HZ } from '../audio/frames'

/** A tempo and where bar one begins. A beat is the beat of the metre: a quarter in x/4, a dotted quarter in 6/8 and 12/8. */
export interface Grid {
  /** The mean tempo, if it drifts. */
  tempoBpm: number
  barOneFrame: number
  beatsPerBar: number
  beatUnit: BeatUnit
  /** Where each beat lies in a beat that drifts; null for a steady one. */
  map: TempoMap | null
}

export type BeatUnit = 'quarter' | 'dotted-quarter'

export interface TempoMap {
  /** Which beat, counted from bar one, the first frame stands for. */
  firstBeat: number
  /** Rising, at least two. Before and after them the tempo goes on as it is at that end. */
  frames: number[]
}

export const TEMPO_RANGE_BPM = { min: 30, max: 300 } as const

/** Of the mean tempo. */
export function framesPerBeat(grid: Grid): number {
  return (60 * SAMPLE_RATE_HZ) / grid.tempoBpm
}

/** The frame of a beat counted from bar one (0 = the first beat of bar one; may be negative or fractional), rounded to whole frames. */
export function frameOfBeat(grid: Grid, beat: number): number {
  if (!grid.map) return Math.round(grid.barOneFrame + beat * framesPerBeat(grid))
  const { firstBeat, frames } = grid.map
  const at = beat - firstBeat
  const whole = Math.max(0, Math.min(frames.length - 2, Math.floor(at)))
  return Math.round(frames[whole] + (at - whole) * (frames[whole + 1] - frames[whole]))
}

/** The frame where a bar begins; bars count from 1, and bar 0 is the one before bar one. */
export function frameOfBar(grid: Grid, bar: number): number {
  return frameOfBeat(grid, (bar - 1) * grid.beatsPerBar)
}

/** Beats from bar one, fractional. */
export function beatAtFrame(grid: Grid, frame: number): number {
  if (!grid.map) return (frame - grid.barOneFrame) / framesPerBeat(grid)
  const { firstBeat, frames } = grid.map
  let low = 0
  let high = frames.length - 1
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (frames[middle] <= frame) low = middle
    else high = middle
  }
  return firstBeat + low + (frame - frames[low]) / (frames[low + 1] - frames[low])
}

/** Whether two grids put every beat at the same frame and count it alike. */
export function sameGrid(a: Grid, b: Grid): boolean {
  return (
    a.tempoBpm === b.tempoBpm &&
    a.barOneFrame === b.barOneFrame &&
    a.beatsPerBar === b.beatsPerBar &&
    a.beatUnit === b.beatUnit &&
    JSON.stringify(a.map) === JSON.stringify(b.map)
  )
}

/** "4/4", "6/8". */
export function formatMeter({ beatsPerBar, beatUnit }: Pick<Grid, 'beatsPerBar' | 'beatUnit'>): string {
  return beatUnit === 'quarter' ? `${beatsPerBar}/4` : `${beatsPerBar * 3}/8`
}

/** What comes this little before a bar is meant to be in it: nobody hears five milliseconds, and frames are rounded. */
const NEARLY_FRAMES = 240

/** The bar that sounds at a frame, counted from 1. */
export function barAtFrame(grid: Grid, frame: number): number {
  return Math.floor(beatAtFrame(grid, frame + NEARLY_FRAMES) / grid.beatsPerBar) + 1
}

/** "21.2.3": bar, beat in the bar, sixteenth in the beat (six of them in a dotted quarter), all from 1. Before bar one bars count 0, -1, … */
export function formatPosition(grid: Grid, frame: number): string {
  const perBeat = grid.beatUnit === 'quarter' ? 4 : 6
  const sixteenths = Math.floor(beatAtFrame(grid, frame + NEARLY_FRAMES) * perBeat)
  const perBar = grid.beatsPerBar * perBeat
  const bar = Math.floor(sixteenths / perBar)
  const inBar = sixteenths - bar * perBar
  return `${bar + 1}.${Math.floor(inBar / perBeat) + 1}.${(inBar % perBeat) + 1}`
}

/** How many bars begin before a frame, at least 1. */
export function barCountUntil(grid: Grid, frames: number): number {
  return Math.max(1, Math.ceil(beatAtFrame(grid, frames) / grid.beatsPerBar - 0.1))
}

/** The grid moved in time so that bar one begins at a frame. */
export function withBarOneAt(grid: Grid, frame: number): Grid {
  const shift = frame - grid.barOneFrame
  return { ...grid, barOneFrame: frame, map: grid.map && { ...grid.map, frames: grid.map.frames.map(at => at + shift) } }
}

/** Every beat stays where it is, but bar one is counted from another one. */
export function withBarOneOnBeat(grid: Grid, beat: number): Grid {
  return { ...grid, barOneFrame: frameOfBeat(grid, beat), map: grid.map && { ...grid.map, firstBeat: grid.map.firstBeat - beat } }
}

/** A steady tempo from bar one on: a drift that was followed is dropped. */
export function withTempo(grid: Grid, tempoBpm: number): Grid {
  return { ...grid, tempoBpm, map: null }
}

/** Twice as many beats in the same time. */
export function withDoubledTempo(grid: Grid): Grid {
  const map = grid.map && {
    firstBeat: grid.map.firstBeat * 2,
    frames: grid.map.frames.flatMap((at, i, all) => (i + 1 < all.length ? [at, Math.round((at + all[i + 1]) / 2)] : [at])),
  }
  return { ...grid, tempoBpm: grid.tempoBpm * 2, map }
}

/** Half as many beats in the same time, from bar one. */
export function withHalvedTempo(grid: Grid): Grid {
  if (!grid.map) return { ...grid, tempoBpm: grid.tempoBpm / 2 }
  const first = Math.ceil(grid.map.firstBeat / 2)
  const frames = grid.map.frames.filter((_, i) => (grid.map!.firstBeat + i) % 2 === 0)
  return { ...grid, tempoBpm: grid.tempoBpm / 2, map: frames.length > 1 ? { firstBeat: first, frames } : null }
}
