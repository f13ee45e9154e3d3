/** What the singer looks at and works on: view state, never part of the song. */
import { create } from 'zustand'
import { barCountUntil, frameOfBar } from '../../core/beat/grid'
import type { View } from '../../core/mix/heard'
import type { LayerId, LineId, SectionId, Song } from '../../core/song/schema'
import { placedLines, sectionRange, type FrameRange, type PlacedLine } from '../../core/song/select'

export type Selection = { kind: 'song' } | { kind: 'section'; sectionId: SectionId } | { kind: 'lines'; lineIds: LineId[] }

interface ViewState {
  selection: Selection
  layerId: LayerId | null
  looping: boolean
  clicking: boolean
  /** Level of the click, decibels. */
  clickDecibels: number
  /** Whether the count-in clicks even with the click off. */
  clickInCountIn: boolean
  /** How much louder beat one clicks. */
  accentDecibels: number
  /** Where playing begins. */
  cursorFrame: number
  sheetFolded: boolean
  /** Both sides of the output play their middle; nothing of the song. */
  inMono: boolean
  /** As out of a small loudspeaker. */
  isSmall: boolean
  /** What is heard instead of the whole song. */
  view: View
  /** What a room works on inside or round the selection, if it is not the selection itself: that loops. */
  loopRange: FrameRange | null
}

const FIRST: ViewState = {
  selection: { kind: 'song' },
  layerId: null,
  looping: false,
  clicking: false,
  clickDecibels: -9,
  clickInCountIn: true,
  accentDecibels: 3,
  cursorFrame: 0,
  sheetFolded: false,
  inMono: false,
  isSmall: false,
  view: { kind: 'song' },
  loopRange: null,
}

export const useView = create<ViewState>(() => FIRST)

export function resetView(song: Song): void {
  const firstLine = placedLines(song)[0]
  useView.setState({
    ...FIRST,
    sheetFolded: useView.getState().sheetFolded,
    layerId: song.layers[0]?.id ?? null,
    cursorFrame: 0,
    ...(firstLine ? { selection: { kind: 'lines', lineIds: [firstLine.line.id] }, cursorFrame: firstLine.startFrame } : {}),
  })
}

export function select(song: Song, selection: Selection): void {
  useView.setState({ selection, loopRange: null, cursorFrame: rangeOf(song, selection).startFrame })
}

/** The selected stretch; a selection that no longer exists means the whole song. */
export function rangeOf(song: Song, selection: Selection): FrameRange {
  const { grid, frames } = song.beat
  const whole = { startFrame: Math.max(0, frameOfBar(grid, 1)), endFrame: frameOfBar(grid, barCountUntil(grid, frames) + 1) }
  if (selection.kind === 'section') {
    const section = song.sections.find(entry => entry.id === selection.sectionId)
    return section ? sectionRange(song, section) : whole
  }
  if (selection.kind === 'lines') {
    const lines = selectedLines(song, selection)
    if (lines.length > 0) return { startFrame: lines[0]!.startFrame, endFrame: lines.at(-1)!.endFrame }
  }
  return whole
}

/** Lines of the selection in order: those chosen, or all of the section or song. */
export function selectedLines(song: Song, selection: Selection): PlacedLine[] {
  const lines = placedLines(song)
  if (selection.kind === 'lines') return lines.filter(placed => selection.lineIds.includes(placed.line.id))
  if (selection.kind === 'section') return lines.filter(placed => placed.section.id === selection.sectionId)
  return lines
}

/** The one line that is worked on; null if the selection holds none. */
export function focusedLine(song: Song, selection: Selection): PlacedLine | null {
  return selectedLines(song, selection)[0] ?? null
}

export function toggleMono(): void {
  useView.setState(({ inMono }) => ({ inMono: !inMono }))
}

export function toggleSmall(): void {
  useView.setState(({ isSmall }) => ({ isSmall: !isSmall }))
}
