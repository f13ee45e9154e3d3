/** What is chosen at once: the song, a section, lines, a piece between two seams, a word. */
import type { Layer, LineId, SectionId, Song } from '../song/schema'
import { currentComp, lineTitle, placedLines, type FrameRange, type PlacedLine } from '../song/select'
import { placeWords, type Sung } from '../song/words'

export type Scope = 'song' | 'section' | 'line' | 'piece' | 'word'

/** From the whole to the part. */
export const SCOPES: readonly Scope[] = ['song', 'section', 'line', 'piece', 'word']

export interface Stretch extends FrameRange {
  scope: Scope
  title: string
  /** The lines that it holds or lies in. */
  lineIds: LineId[]
  sectionId: SectionId | null
}

/** An edge so close to a line's own is the line's. */
const EDGE_FRAMES = 24_000

/** All stretches of a kind, in order of time. A song without lines has but one. */
export function stretchesOf(song: Song, layer: Layer, scope: Scope, sungOf: (line: PlacedLine) => Sung | null): Stretch[] {
  const lines = placedLines(song)
  const bySection = song.sections
    .map(section => ({ section, lines: lines.filter(placed => placed.section.id === section.id) }))
    .filter(entry => entry.lines.length > 0)
  const over = (own: readonly PlacedLine[], title: string, sectionId: SectionId | null): Stretch => ({
    scope,
    title,
    startFrame: own[0].startFrame,
    endFrame: own[own.length - 1].endFrame,
    lineIds: own.map(placed => placed.line.id),
    sectionId,
  })
  if (lines.length === 0) return []
  if (scope === 'song') return [over(lines, song.title, null)]
  if (scope === 'section') return bySection.map(({ section, lines: own }) => over(own, section.name, section.id))
  if (scope === 'line') return lines.map(placed => over([placed], lineTitle(placed), placed.section.id))
  return lines.flatMap(placed => {
    const inLine = (range: FrameRange, title: string): Stretch => ({ scope, title, ...range, lineIds: [placed.line.id], sectionId: placed.section.id })
    if (scope === 'piece')
      return piecesOf(layer, placed).map((piece, i, all) =>
        inLine(piece, all.length > 1 ? `${lineTitle(placed)}, piece ${i + 1} of ${all.length}` : lineTitle(placed)),
      )
    const words = placeWords(placed, sungOf(placed))
    return words.length > 0
      ? words.map(({ word, ...range }) => inLine(range, word))
      : [inLine({ startFrame: placed.startFrame, endFrame: placed.endFrame }, lineTitle(placed))]
  })
}

/** A line parted where a pick begins or ends inside it. */
function piecesOf(layer: Layer, line: FrameRange): FrameRange[] {
  const edges = currentComp(layer)
    .picks.flatMap(pick => [pick.startFrame, pick.endFrame])
    .filter(frame => frame > line.startFrame + EDGE_FRAMES && frame < line.endFrame - EDGE_FRAMES)
  const all = [line.startFrame, ...new Set(edges.sort((a, b) => a - b)), line.endFrame]
  return all.slice(1).map((endFrame, i) => ({ startFrame: all[i], endFrame }))
}

/** The stretch that a frame lies in, or the next after it; the last one at the end. Of none: 0. */
export function stretchAt(stretches: readonly Stretch[], frame: number): number {
  const index = stretches.findIndex(stretch => stretch.endFrame > frame)
  return index < 0 ? Math.max(0, stretches.length - 1) : index
}
