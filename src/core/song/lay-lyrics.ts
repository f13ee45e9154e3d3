/** Laying lyrics, or wordless lines, over the bars of the song. */
import { produce } from 'immer'
import { secondsToFrames } from '../audio/frames'
import { barCountUntil, beatAtFrame } from '../beat/grid'
import { changedSheet, DEFAULT_BARS_A_LINE, usableBar, wordsOf, type LayOptions } from './changed-sheet'
import { matchLines } from './match-lines'
import { planNewLines } from './planned-lines'
import type { Line, LineId, Section, SectionId, Song } from './schema'
import { sectionRange, type FrameRange } from './select'

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
  return planNewLines(song, { ...song, sectionsAreDefault: false, sections })
}

function freshSheet(song: Song, { lyrics, firstBar, barsALine = DEFAULT_BARS_A_LINE, makeId }: LayOptions): Section[] {
  const { grid, frames } = song.beat
  const bars = barCountUntil(grid, frames)
  const sections: Section[] = []
  const add = (name: string, startBar: number, barCount: number, lines: Line[]) =>
    sections.push({ id: makeId() as SectionId, name: name.slice(0, 120), startBar, barCount, lines })
  // What a heading says is more than what the field for all says.
  const begin = usableBar(lyrics[0], bars) ?? firstBar
  if (begin > 1) add('Intro', 1, begin - 1, [])
  let bar = begin
  lyrics.forEach((section, index) => {
    const there = song.sections.find(entry => entry.name.toLowerCase() === section.name.toLowerCase() && entry.startBar >= bar)
    bar = Math.max(bar, usableBar(section, bars) ?? there?.startBar ?? bar)
    const next = lyrics[index + 1]
    const nextBar = next ? usableBar(next, bars) : null
    const room = nextBar === null ? Infinity : nextBar - bar
    const beatCount = beatsALine(section.lines.length, { barsALine, bars: Math.min(section.bars ?? Infinity, room), beatsPerBar: grid.beatsPerBar })
    const lines = section.lines.map((words, i) => ({ id: makeId() as LineId, words: wordsOf(words), startBeat: i * beatCount, beatCount }))
    const needed = Math.ceil((lines.length * beatCount) / grid.beatsPerBar - 1e-6)
    const barCount = Math.max(1, needed, Math.min(section.bars ?? (section.bar === null && there ? there.barCount : 0), room))
    add(section.name, bar, barCount, lines)
    bar += barCount
  })
  if (bar <= bars) add('Outro', bar, bars - bar + 1, [])
  return sections
}

/** As many bars a line as are wanted, or as whole beats have room for in the bars that a heading leaves; one beat at least. */
function beatsALine(lineCount: number, { barsALine, bars, beatsPerBar }: { barsALine: number; bars: number; beatsPerBar: number }): number {
  const wanted = barsALine * beatsPerBar
  if (bars < 1 || lineCount * barsALine <= bars) return wanted
  return Math.max(1, Math.floor((bars * beatsPerBar) / lineCount))
}

/** Command: lines without words in every section that has none, `barsALine` bars each (the last may be shorter). */
export function layWordlessLines(
  song: Song,
  { sectionIds, barsALine = DEFAULT_BARS_A_LINE, makeId }: { sectionIds: SectionId[]; barsALine?: number; makeId: () => string },
): Song {
  const beatsPerBar = song.beat.grid.beatsPerBar
  const laid = produce(song, draft => {
    for (const section of draft.sections) {
      if (section.lines.length > 0 || !sectionIds.includes(section.id)) continue
      for (let bar = 0; bar < section.barCount; bar += barsALine) {
        const barCount = Math.min(barsALine, section.barCount - bar)
        section.lines.push({ id: makeId() as LineId, words: '', startBeat: bar * beatsPerBar, beatCount: barCount * beatsPerBar })
      }
      draft.sectionsAreDefault = false
    }
  })
  return planNewLines(song, laid)
}

/** What is sung with a shorter pause than this is one phrase, and one line. */
const LEAST_PAUSE_FRAMES = secondsToFrames(0.25)

/**
 * Command: a line without words for every phrase that was sung in a section without lines, by quarters of a beat.
 * @param phrases Of any takes, in any order.
 */
export function layPhraseLines(song: Song, { phrases, makeId }: { phrases: readonly FrameRange[]; makeId: () => string }): Song {
  const { grid } = song.beat
  const together: FrameRange[] = []
  for (const { startFrame, endFrame } of [...phrases].sort((a, b) => a.startFrame - b.startFrame)) {
    const last = together.at(-1)
    if (last && startFrame < last.endFrame + LEAST_PAUSE_FRAMES) last.endFrame = Math.max(last.endFrame, endFrame)
    else together.push({ startFrame, endFrame })
  }
  const laid = produce(song, draft => {
    for (const section of draft.sections) {
      if (section.lines.length > 0) continue
      const first = (section.startBar - 1) * grid.beatsPerBar
      const range = sectionRange(song, section)
      const inside = together.filter(({ startFrame, endFrame }) => {
        const middle = (startFrame + endFrame) / 2
        return middle >= range.startFrame && middle < range.endFrame
      })
      if (inside.length === 0) continue
      section.lines = inside.map(({ startFrame, endFrame }): Line => {
        const startBeat = Math.floor(beatAtFrame(grid, startFrame) * 4) / 4 - first
        const endBeat = Math.ceil(beatAtFrame(grid, endFrame) * 4) / 4 - first
        return { id: makeId() as LineId, words: '', startBeat, beatCount: endBeat - startBeat }
      })
      section.lines.forEach((line, i) => {
        const next = section.lines[i + 1]
        if (next) line.beatCount = Math.min(line.beatCount, next.startBeat - line.startBeat)
      })
      section.lines = section.lines.filter(line => line.beatCount > 0)
      draft.sectionsAreDefault = false
    }
  })
  return planNewLines(song, laid)
}

/** A tapped line is no longer than this, however late the next tap. */
const LONGEST_TAPPED_BARS = 4

/**
 * Command: a section's lines begin where someone tapped along, each at the nearest beat, and last until the next. Lines that are
 * there keep their words, in order; those that got no tap follow by the bar, or closer where the section ends; taps beyond them make lines without words.
 */
export function layTappedLines(song: Song, { sectionId, frames, makeId }: { sectionId: SectionId; frames: number[]; makeId: () => string }): Song {
  const { grid } = song.beat
  const laid = produce(song, draft => {
    const section = draft.sections.find(entry => entry.id === sectionId)
    if (!section) return
    const total = section.barCount * grid.beatsPerBar
    const first = (section.startBar - 1) * grid.beatsPerBar
    const starts = [...new Set(frames.map(frame => Math.round(beatAtFrame(grid, frame)) - first))]
      .filter(beat => beat >= 0 && beat < total)
      .sort((a, b) => a - b)
    if (starts.length === 0) return
    // Lines without a tap share what is left of the section, a bar each where there is room.
    const untapped = section.lines.length - starts.length
    if (untapped > 0) {
      const last = starts[starts.length - 1]
      const each = Math.min(grid.beatsPerBar, (total - last) / (untapped + 1))
      for (let i = 1; i <= untapped; i++) starts.push(last + i * each)
    }
    const before = section.lines
    section.lines = starts.map((startBeat, i): Line => {
      const next = starts[i + 1] ?? total
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
  return planNewLines(song, laid)
}
