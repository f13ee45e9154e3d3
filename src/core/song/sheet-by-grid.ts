/** What becomes of sections and lines when tempo, metre or bar one are corrected. */
import { secondsToFrames } from '../audio/frames'
import { beatAtFrame, frameOfBar, frameOfBeat, type Grid } from '../beat/grid'
import type { Line, Section, Song } from './schema'

/** What stays of a sheet: where its lines lie in time, or which bars they are in. */
export type SheetStays = 'time' | 'bars'

/** Nobody hears a line begin this much earlier or later. */
const TOLERANCE_FRAMES = secondsToFrames(0.03)

/** Beats that are read off whole frames are a hair off; one within a frame of such a fraction of a beat is meant to be it. */
const FINEST_BEAT = 192

/**
 * What stays of the sheet under another grid, where that is plain; otherwise by how much the sheet would move in time if its bars stayed.
 * It is plain where nothing moves, where the new bars hold all that the old ones held, and where nobody has touched the sheet yet.
 */
export function staysUnder(song: Song, grid: Grid): { stays: SheetStays } | { movesFrames: number } {
  const { sections } = song
  const before = song.beat.grid
  const hasLines = sections.some(section => section.lines.length > 0)
  if (song.beat.gridSource === 'unknown') return { stays: song.takes.length > 0 ? 'time' : 'bars' }
  const movesFrames = farthestMove(sections, before, sheetByGrid(sections, before, grid, 'bars'), grid)
  if (movesFrames <= TOLERANCE_FRAMES) return { stays: 'bars' }
  if (!hasLines && song.sectionsAreDefault) return { stays: isOnlyMoved(before, grid) ? 'bars' : 'time' }
  const inTime = sheetByGrid(sections, before, grid, 'time')
  const held = farthestMove(sections, before, inTime, grid) <= TOLERANCE_FRAMES && linesOffTheBeat(inTime, grid) <= linesOffTheBeat(sections, before)
  return held ? { stays: 'time' } : { movesFrames }
}

/** Sections counted by one grid, counted by another. Lines that stay in time do so to the frame, whatever bars their section is rounded to. */
export function sheetByGrid(sections: readonly Section[], before: Grid, after: Grid, stays: SheetStays): Section[] {
  return stays === 'time' ? byTime(sections, before, after) : byBars(sections, before, after)
}

/** In a bar of another metre a line begins as far into the bar as before. */
function byBars(sections: readonly Section[], before: Grid, after: Grid): Section[] {
  const ratio = after.beatsPerBar / before.beatsPerBar
  return sections.map(({ heldAt: _, ...section }) =>
    ratio === 1
      ? section
      : { ...section, lines: section.lines.map(line => ({ ...line, startBeat: line.startBeat * ratio, beatCount: line.beatCount * ratio })) },
  )
}

function byTime(sections: readonly Section[], before: Grid, after: Grid): Section[] {
  const barAt = (frame: number) => Math.round(beatAtFrame(after, frame) / after.beatsPerBar) + 1
  const ranges = sections.map(section => section.heldAt ?? barsOf(before, section))
  let freeFrom = -Infinity
  const startBars = ranges.map(({ startFrame }) => {
    const startBar = Math.max(barAt(startFrame), freeFrom)
    freeFrom = startBar + 1
    return startBar
  })
  return sections.map(({ heldAt: _, ...section }, i) => {
    const startBar = startBars[i]
    const barCount = Math.max(1, Math.min(barAt(ranges[i].endFrame), startBars[i + 1] ?? Infinity) - startBar)
    const lines = section.lines.map(line => lineByTime(line, firstBeat(before, section.startBar), before, firstBeat(after, startBar), after))
    const moved = { ...section, startBar, barCount, lines }
    const now = barsOf(after, moved)
    const isExact = Math.abs(now.startFrame - ranges[i].startFrame) <= 1 && Math.abs(now.endFrame - ranges[i].endFrame) <= 1
    return isExact ? moved : { ...moved, heldAt: ranges[i] }
  })
}

function lineByTime(line: Line, beatBefore: number, before: Grid, beatAfter: number, after: Grid): Line {
  const beatOf = (beat: number) => {
    const frame = frameOfBeat(before, beatBefore + beat)
    const exact = beatAtFrame(after, frame) - beatAfter
    const near = Math.round(exact * FINEST_BEAT) / FINEST_BEAT
    return Math.abs(frameOfBeat(after, beatAfter + near) - frame) <= 1 ? near : exact
  }
  const startBeat = beatOf(line.startBeat)
  return { ...line, startBeat, beatCount: Math.max(1 / FINEST_BEAT, beatOf(line.startBeat + line.beatCount) - startBeat) }
}

function firstBeat(grid: Grid, bar: number): number {
  return (bar - 1) * grid.beatsPerBar
}

function barsOf(grid: Grid, { startBar, barCount }: Section): { startFrame: number; endFrame: number } {
  return { startFrame: frameOfBar(grid, startBar), endFrame: frameOfBar(grid, startBar + barCount) }
}

/** Of every section's first frame and every line's. */
function farthestMove(sections: readonly Section[], before: Grid, moved: readonly Section[], after: Grid): number {
  let most = 0
  sections.forEach((section, i) => {
    const range = section.heldAt ?? barsOf(before, section)
    most = Math.max(most, Math.abs(frameOfBar(after, moved[i].startBar) - range.startFrame))
    section.lines.forEach((line, k) => {
      const was = frameOfBeat(before, firstBeat(before, section.startBar) + line.startBeat)
      const is = frameOfBeat(after, firstBeat(after, moved[i].startBar) + moved[i].lines[k].startBeat)
      most = Math.max(most, Math.abs(is - was))
    })
  })
  return most
}

function linesOffTheBeat(sections: readonly Section[], grid: Grid): number {
  const tolerance = beatAtFrame(grid, grid.barOneFrame + TOLERANCE_FRAMES)
  // Eighths are as good as beats: a tempo that is halved makes them of beats.
  const isOff = (beat: number) => Math.abs(beat * 2 - Math.round(beat * 2)) / 2 > tolerance
  return sections.reduce((sum, section) => sum + section.lines.filter(line => isOff(line.startBeat)).length, 0)
}

function isOnlyMoved(before: Grid, after: Grid): boolean {
  return before.tempoBpm === after.tempoBpm && before.beatsPerBar === after.beatsPerBar && before.beatUnit === after.beatUnit
}
