/** Laying lyrics, or wordless lines, over the bars of the song. */
import { produce } from 'immer'
import { barCountUntil, beatAtFrame } from '../beat/grid'
import { changedSheet, DEFAULT_BARS_A_LINE, usableBar, wordsOf, type LayOptions } from './changed-sheet'
import { matchLines } from './match-lines'
import type { Line, LineId, Section, SectionId, Song } from './schema'

/** How many bars a line may be laid over. */
export const BARS_A_LINE = [1, 2, 4] as const

/**
 * Command: the sheet follows a text. Lines that were there before, changed or not, keep their id and their time, sections their bars; only
 * what is new is laid. Where none of it was there, sections follow each other from `firstBar`, each line `barsALine` bars long; a heading
 * that names a section there is begins at that section's bar and is as long, if its lines leave room. Takes and picks are not touched.
 */
export function layLyrics(song: Song, options: LayOptions): Song {
  const { lyrics } = options
  if (lyrics.length === 0) return song
  const old = song.sections.flatMap(section => section.lines.map(line => ({ section, line })))
  const fresh = lyrics.flatMap(section => section.lines.map(words => ({ words: wordsOf(words), sectionName: section.name })))
  const matches = matchLines(
    old.map(({ section, line }) => ({ words: line.words, sectionName: section.name })),
    fresh,
  )
  const kept = matches.map(index => (index === null ? null : old[index]))
  const sections = kept.some(entry => entry !== null) ? changedSheet(song, options, kept) : freshSheet(song, options)
  return produce(song, draft => {
    draft.sectionsAreDefault = false
    draft.sections = sections
  })
}

function freshSheet(song: Song, { lyrics, firstBar, barsALine = DEFAULT_BARS_A_LINE, makeId }: LayOptions): Section[] {
  const { grid, frames } = song.beat
  const beatCount = barsALine * grid.beatsPerBar
  const bars = barCountUntil(grid, frames)
  const sections: Section[] = []
  const add = (name: string, startBar: number, barCount: number, lines: Line[]) =>
    sections.push({ id: makeId() as SectionId, name: name.slice(0, 120), startBar, barCount, lines })
  if (firstBar > 1) add('Intro', 1, firstBar - 1, [])
  let bar = firstBar
  for (const section of lyrics) {
    const there = song.sections.find(entry => entry.name.toLowerCase() === section.name.toLowerCase() && entry.startBar >= bar)
    bar = Math.max(bar, usableBar(section, bars) ?? there?.startBar ?? bar)
    const lines = section.lines.map((words, i) => ({ id: makeId() as LineId, words: wordsOf(words), startBeat: i * beatCount, beatCount }))
    const barCount = Math.max(1, section.bars ?? lines.length * barsALine, section.bar === null && there ? there.barCount : 0)
    add(section.name, bar, barCount, lines)
    bar += barCount
  }
  if (bar <= bars) add('Outro', bar, bars - bar + 1, [])
  return sections
}

/** Command: lines without words in every section that has none, `barsALine` bars each (the last may be shorter). */
export function layWordlessLines(
  song: Song,
  { sectionIds, barsALine = DEFAULT_BARS_A_LINE, makeId }: { sectionIds: SectionId[]; barsALine?: number; makeId: () => string },
): Song {
  const beatsPerBar = song.beat.grid.beatsPerBar
  return produce(song, draft => {
    for (const section of draft.sections) {
      if (section.lines.length > 0 || !sectionIds.includes(section.id)) continue
      for (let bar = 0; bar < section.barCount; bar += barsALine) {
        const barCount = Math.min(barsALine, section.barCount - bar)
        section.lines.push({ id: makeId() as LineId, words: '', startBeat: bar * beatsPerBar, beatCount: barCount * beatsPerBar })
      }
      draft.sectionsAreDefault = false
    }
  })
}

/** A tapped line is no longer than this, however late the next tap. */
const LONGEST_TAPPED_BARS = 4

/**
 * Command: a section's lines begin where someone tapped along, each at the nearest beat, and last until the next. Lines that are
 * there keep their words, in order; those that got no tap follow by the bar; taps beyond them make lines without words.
 */
export function layTappedLines(song: Song, { sectionId, frames, makeId }: { sectionId: SectionId; frames: number[]; makeId: () => string }): Song {
  const { grid } = song.beat
  return produce(song, draft => {
    const section = draft.sections.find(entry => entry.id === sectionId)
    if (!section) return
    const total = section.barCount * grid.beatsPerBar
    const first = (section.startBar - 1) * grid.beatsPerBar
    const starts = [...new Set(frames.map(frame => Math.round(beatAtFrame(grid, frame)) - first))]
      .filter(beat => beat >= 0 && beat < total)
      .sort((a, b) => a - b)
    if (starts.length === 0) return
    for (let beat = starts[starts.length - 1] + grid.beatsPerBar; starts.length < section.lines.length; beat += grid.beatsPerBar) starts.push(beat)
    const before = section.lines
    section.lines = starts.map((startBeat, i): Line => {
      const next = starts[i + 1] ?? Math.max(total, startBeat + grid.beatsPerBar)
      const kept = before[i]
      return {
        id: kept?.id ?? (makeId() as LineId),
        words: kept?.words ?? '',
        startBeat,
        beatCount: Math.min(next - startBeat, LONGEST_TAPPED_BARS * grid.beatsPerBar),
      }
    })
    draft.sectionsAreDefault = false
  })
}
