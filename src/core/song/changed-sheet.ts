/** The sheet after its text was edited: lines that were there before keep their place, new lines go beside them. */
import { barCountUntil } from '../beat/grid'
import type { LyricSection } from './lyrics'
import type { Line, LineId, Section, SectionId, Song } from './schema'

export const DEFAULT_BARS_A_LINE = 2

export interface LayOptions {
  lyrics: LyricSection[]
  firstBar: number
  barsALine?: number
  makeId: () => string
}

/** A line of the text as the sheet keeps it; "…" stands for one without words. */
export function wordsOf(text: string): string {
  return text === '…' ? '' : text.slice(0, 500)
}

/** The bar that a heading asks for, if the beat reaches that far. */
export function usableBar({ bar }: LyricSection, bars: number): number | null {
  return bar !== null && bar >= 1 && bar <= bars ? bar : null
}

/** A section of the text while it is looked for where it lies. */
interface PlacedSection {
  text: LyricSection
  was: Section | null
  /** Bars from `startBar` up to `endBar`; null while nothing says where it lies. */
  startBar: number | null
  endBar: number
  /** With the lines that were there; null for a new one. Beats count from bar one. */
  lines: { words: string; was: Line | null; startBeat: number; beatCount: number }[]
}

export type KeptLine = { section: Section; line: Line } | null

/** The sections of a changed text. @param kept For every line of the text in order the line that it was; null for a new one. */
export function changedSheet(song: Song, { lyrics, barsALine = DEFAULT_BARS_A_LINE, makeId }: LayOptions, kept: readonly KeptLine[]): Section[] {
  const { beatsPerBar } = song.beat.grid
  const bars = barCountUntil(song.beat.grid, song.beat.frames)
  const placed = placeKept(song, lyrics, kept)
  layNewSections(song, placed, barsALine)
  const sections = placed.map(({ text, was, startBar, endBar, lines }): Section => {
    const first = startBar!
    // A heading that asks for a bar takes its lines along.
    const moved = was && text.bar !== was.startBar ? usableBar(text, bars) : null
    const laid = layNewLines(lines, { from: (first - 1) * beatsPerBar, beatCount: barsALine * beatsPerBar })
    const lastBeat = laid.reduce((last, line) => Math.max(last, line.startBeat + line.beatCount), 0)
    const barCount = Math.max(1, text.bars ?? endBar - first, Math.ceil(lastBeat / beatsPerBar - 1e-6) - first + 1)
    return {
      id: was?.id ?? (makeId() as SectionId),
      name: text.name.slice(0, 120),
      startBar: moved ?? first,
      barCount,
      lines: laid.map(line => ({
        id: line.was?.id ?? (makeId() as LineId),
        words: line.words,
        startBeat: line.startBeat - (first - 1) * beatsPerBar,
        beatCount: line.beatCount,
      })),
    }
  })
  const named = new Set(placed.map(({ was }) => was?.id))
  // Parts of the beat without words stay, as far as they are still free.
  const wordless = song.sections.filter(section => !named.has(section.id) && section.lines.length === 0)
  return inOrder([...sections, ...wordless], wordless)
}

/** Sections of the text where their lines lie, or where the section of their name did. */
function placeKept(song: Song, lyrics: readonly LyricSection[], kept: readonly KeptLine[]): PlacedSection[] {
  const { beatsPerBar } = song.beat.grid
  let index = 0
  let after = -Infinity
  return lyrics.map((text): PlacedSection => {
    const lines = text.lines.map((given): PlacedSection['lines'][number] => {
      const entry = kept[index++]
      const words = wordsOf(given)
      return entry
        ? { words, was: entry.line, startBeat: (entry.section.startBar - 1) * beatsPerBar + entry.line.startBeat, beatCount: entry.line.beatCount }
        : { words, was: null, startBeat: 0, beatCount: 0 }
    })
    const matched = lines.filter(line => line.was)
    const free = song.sections.filter(section => section.startBar >= after)
    const holds = (section: Section) => matched.filter(line => section.lines.includes(line.was!)).length
    const byLines = [...free].sort((a, b) => holds(b) - holds(a)).find(section => holds(section) > 0)
    const was = byLines ?? (matched.length === 0 ? free.find(section => section.name.toLowerCase() === text.name.toLowerCase()) : undefined) ?? null
    // Its own lines may begin before it does; others are taken in.
    const takenIn = matched.filter(line => !was?.lines.includes(line.was!))
    const firstBar = takenIn.length > 0 ? Math.floor(Math.min(...takenIn.map(line => line.startBeat)) / beatsPerBar + 1e-6) + 1 : null
    const startBar = was && firstBar ? Math.min(was.startBar, firstBar) : (was?.startBar ?? firstBar)
    if (startBar === null) return { text, was, startBar, endBar: 0, lines }
    const endBar = was ? was.startBar + was.barCount : startBar + 1
    after = was ? endBar : startBar + 1
    return { text, was, startBar, endBar, lines }
  })
}

/** Sections that nothing places go behind the one before them, as long as their lines want or as there is room. */
function layNewSections(song: Song, placed: PlacedSection[], barsALine: number): void {
  const bars = barCountUntil(song.beat.grid, song.beat.frames)
  placed.forEach((section, i) => {
    if (section.startBar !== null) return
    const before = placed[i - 1]
    const next = placed.slice(i + 1).find(other => other.startBar !== null)
    const from = before ? before.endBar : 1
    const wanted = section.text.bars ?? Math.max(1, section.lines.length * barsALine)
    const asked = usableBar(section.text, bars)
    // Where the next one leaves no room, behind everything.
    const hasRoom = !next || next.startBar! > from
    const last = Math.max(...placed.map(other => other.endBar), 1)
    section.startBar = asked ?? (hasRoom ? (next ? Math.max(from, next.startBar! - wanted) : from) : last)
    section.endBar = section.startBar + (hasRoom && next ? Math.min(wanted, next.startBar! - section.startBar) : wanted)
  })
}

/** New lines go where there is room beside the lines that stay; where there is none, the line before lends the later half of its own. */
function layNewLines(lines: PlacedSection['lines'], { from, beatCount }: { from: number; beatCount: number }): PlacedSection['lines'] {
  const laid: PlacedSection['lines'] = []
  lines.forEach((line, i) => {
    if (line.was) return void laid.push(line)
    const before = laid.at(-1)
    const next = lines.slice(i + 1).find(other => other.was)
    const waiting = lines.slice(i).findIndex(other => other.was)
    const start = before ? before.startBeat + before.beatCount : from
    const room = next ? (next.startBeat - start) / Math.max(1, waiting) : beatCount
    if (room >= 1) laid.push({ ...line, startBeat: start, beatCount: Math.min(beatCount, room) })
    else if (before) {
      const half = before.beatCount / 2
      laid[laid.length - 1] = { ...before, beatCount: half }
      laid.push({ ...line, startBeat: before.startBeat + half, beatCount: half })
    } else if (next) {
      const half = next.beatCount / 2
      laid.push({ ...line, startBeat: next.startBeat, beatCount: half })
      next.startBeat += half
      next.beatCount = half
    }
  })
  return laid
}

/** In the order of their bars; each ends where the next one begins, and one without words gives way on both sides. */
function inOrder(sections: readonly Section[], givingWay: readonly Section[]): Section[] {
  const firm = sections.filter(section => !givingWay.includes(section)).sort((a, b) => a.startBar - b.startBar)
  const fitted = firm.map((section, i) => {
    const next = firm[i + 1]
    return next ? { ...section, barCount: Math.max(1, Math.min(section.barCount, next.startBar - section.startBar)) } : section
  })
  // Two that ask for the same bar follow each other.
  for (let i = 1; i < fitted.length; i++) {
    const before = fitted[i - 1]
    if (fitted[i].startBar < before.startBar + before.barCount) fitted[i] = { ...fitted[i], startBar: before.startBar + before.barCount }
  }
  const between = givingWay.flatMap(section => {
    let [startBar, endBar] = [section.startBar, section.startBar + section.barCount]
    for (const other of fitted) {
      const otherEnd = other.startBar + other.barCount
      if (otherEnd <= startBar || other.startBar >= endBar) continue
      if (other.startBar > startBar) endBar = other.startBar
      else startBar = otherEnd
    }
    return endBar > startBar ? [{ ...section, startBar, barCount: endBar - startBar }] : []
  })
  return [...fitted, ...between].sort((a, b) => a.startBar - b.startBar)
}
