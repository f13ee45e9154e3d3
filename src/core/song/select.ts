/** Questions to the song document. */
import { frameOfBar, frameOfBeat } from '../beat/grid'
import type { Comp, Layer, LayerId, Line, LineId, Section, Song, Take, TakeId } from './schema'

/** A stretch of the song in frames, end excluded. */
export interface FrameRange {
  startFrame: number
  endFrame: number
}

/** A line with its place: section, number in it (from 1), frames. */
export interface PlacedLine extends FrameRange {
  line: Line
  section: Section
  number: number
}

export function lengthOf(range: FrameRange): number {
  return range.endFrame - range.startFrame
}

export function overlapFrames(a: FrameRange, b: FrameRange): number {
  return Math.max(0, Math.min(a.endFrame, b.endFrame) - Math.max(a.startFrame, b.startFrame))
}

export function sectionRange(song: Song, section: Section): FrameRange {
  const { grid } = song.beat
  return { startFrame: frameOfBar(grid, section.startBar), endFrame: frameOfBar(grid, section.startBar + section.barCount) }
}

/** All lines of the sheet in order. */
export function placedLines(song: Song): PlacedLine[] {
  const { grid } = song.beat
  return song.sections.flatMap(section => {
    const sectionBeat = (section.startBar - 1) * grid.beatsPerBar
    return section.lines.map((line, i) => ({
      line,
      section,
      number: i + 1,
      startFrame: frameOfBeat(grid, sectionBeat + line.startBeat),
      endFrame: frameOfBeat(grid, sectionBeat + line.startBeat + line.beatCount),
    }))
  })
}

export function requirePlacedLine(song: Song, lineId: LineId): PlacedLine {
  const found = placedLines(song).find(placed => placed.line.id === lineId)
  if (!found) throw new RangeError(`no line ${lineId}`)
  return found
}

/** What a line is called: its words, or "Verse 1, line 3". */
export function lineTitle(placed: PlacedLine): string {
  return placed.line.words || `${placed.section.name}, line ${placed.number}`
}

export function requireLayer(song: Song, layerId: LayerId): Layer {
  const layer = song.layers.find(entry => entry.id === layerId)
  if (!layer) throw new RangeError(`no layer ${layerId}`)
  return layer
}

export function requireTake(song: Song, takeId: TakeId): Take {
  const take = song.takes.find(entry => entry.id === takeId)
  if (!take) throw new RangeError(`no take ${takeId}`)
  return take
}

export function currentComp(layer: Layer): Comp {
  const comp = layer.comps.find(entry => entry.id === layer.currentCompId)
  if (!comp) throw new RangeError(`layer ${layer.id} has no current comp`)
  return comp
}

/** A take counts for a range when it holds at least this much of it. */
const COVERING_FRACTION = 0.5

/** Takes of a layer, bin excluded, that hold at least half of a range; in order of recording. */
export function takesCovering(song: Song, layerId: LayerId, range: FrameRange): Take[] {
  return song.takes.filter(take => take.layerId === layerId && !take.binned && covers(take, range))
}

export function covers(take: FrameRange, range: FrameRange): boolean {
  return overlapFrames(take, range) >= COVERING_FRACTION * lengthOf(range)
}

export type LineState = 'picked' | 'sung' | 'missing'

/** What a layer has for a range: a pick over half of it or more, takes only, or nothing. */
export function lineState(song: Song, layer: Layer, range: FrameRange): LineState {
  const picked = currentComp(layer).picks.reduce((sum, pick) => sum + overlapFrames(pick, range), 0)
  if (picked >= COVERING_FRACTION * lengthOf(range)) return 'picked'
  return song.takes.some(take => take.layerId === layer.id && !take.binned && covers(take, range)) ? 'sung' : 'missing'
}

/** Takes that were put in the bin, or whose layer is gone. */
export function binnedTakes(song: Song): Take[] {
  const layerIds = new Set(song.layers.map(layer => layer.id))
  return song.takes.filter(take => take.binned || !layerIds.has(take.layerId))
}
