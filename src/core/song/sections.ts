/** Commands on the song's sections, its grid and its key. */
import { produce } from 'immer'
import { barCountUntil, beatAtFrame, frameOfBeat, sameGrid, TEMPO_RANGE_BPM, type Grid } from '../beat/grid'
import { planNewLines } from './planned-lines'
import type { BeatChord, Line, LineId, Section, SectionId, Song } from './schema'
import { sheetByGrid, staysUnder, type SheetStays } from './sheet-by-grid'

const DEFAULT_SECTION_BARS = 8

type Source = Song['beat']['gridSource']

/** Blocks of eight bars over the whole beat, named by number, without lines. */
export function defaultSections(grid: Grid, frames: number, makeId: () => string): Section[] {
  const bars = barCountUntil(grid, frames)
  const sections: Section[] = []
  for (let startBar = 1; startBar <= bars; startBar += DEFAULT_SECTION_BARS) {
    sections.push({
      id: makeId() as SectionId,
      name: `Part ${sections.length + 1}`,
      startBar,
      barCount: Math.min(DEFAULT_SECTION_BARS, bars - startBar + 1),
      lines: [],
    })
  }
  return sections
}

/**
 * Command: another tempo, bar one or metre. Default blocks are laid anew; of other sections and their lines either the time stays or the bars.
 * @param stays What the singer was asked; otherwise what is plain (see `staysUnder`), or the time.
 * @throws RangeError if the tempo or the metre is none that bars can be counted by.
 */
export function setGrid(
  song: Song,
  { grid, makeId, source = 'typed', stays }: { grid: Grid; makeId: () => string; source?: Source; stays?: SheetStays },
): Song {
  requireCountable(grid)
  const before = song.beat.grid
  if (sameGrid(grid, before) && source === song.beat.gridSource) return song
  return produce(song, draft => {
    draft.beat.grid = grid
    draft.beat.gridSource = source
    draft.beat.chords = moveChords(song.beat.chords, before, grid)
    draft.sections = isInBlocks(song)
      ? defaultSections(grid, song.beat.frames, makeId)
      : sheetByGrid(song.sections, before, grid, stays ?? plainStay(song, grid))
  })
}

function plainStay(song: Song, grid: Grid): SheetStays {
  const answer = staysUnder(song, grid)
  return 'stays' in answer ? answer.stays : 'time'
}

function requireCountable({ tempoBpm, beatsPerBar }: Grid): void {
  const { min, max } = TEMPO_RANGE_BPM
  if (!(tempoBpm >= min && tempoBpm <= max)) throw new RangeError(`tempoBpm must be from ${min} to ${max}, got ${tempoBpm}`)
  if (!Number.isInteger(beatsPerBar) || beatsPerBar < 1 || beatsPerBar > 12)
    throw new RangeError(`beatsPerBar must be a whole number from 1 to 12, got ${beatsPerBar}`)
}

/** Whether the sections are still the ones that every song begins with. */
export function isInBlocks({ sections, sectionsAreDefault, beat }: Song): boolean {
  if (!sectionsAreDefault) return false
  const blocks = defaultSections(beat.grid, beat.frames, () => '')
  return (
    blocks.length === sections.length &&
    blocks.every(({ name, startBar, barCount }, i) => name === sections[i].name && startBar === sections[i].startBar && barCount === sections[i].barCount)
  )
}

/** Command: another name for a section. */
export function renameSection(song: Song, { sectionId, name }: { sectionId: SectionId; name: string }): Song {
  return changeSections(song, sections => {
    requireSection(sections, sectionId).name = name.trim().slice(0, 120) || 'Section'
  })
}

/**
 * How many bars a section's start may move: its neighbour and itself keep at least one bar, and no line is left without a section.
 * @param linesAlong Whether its lines move with it: then its last one must still fit.
 */
export function rangeOfSectionStart(song: Song, sectionId: SectionId, linesAlong = false): { min: number; max: number } {
  const { beatsPerBar } = song.beat.grid
  const index = song.sections.findIndex(section => section.id === sectionId)
  const section = song.sections[index]
  const before = song.sections[index - 1]
  const end = section.startBar + section.barCount
  const touches = before && before.startBar + before.barCount === section.startBar
  const lastBeat = Math.max(0, ...section.lines.map(line => line.startBeat + line.beatCount))
  const firstBeat = Math.min(Infinity, ...section.lines.map(line => line.startBeat))
  const barsToLast = Math.max(1, Math.ceil(lastBeat / beatsPerBar - 1e-6))
  // Bars that nobody else takes over must keep their lines.
  const firstLineBar = section.startBar + Math.max(0, Math.floor(firstBeat / beatsPerBar + 1e-6))
  const max = linesAlong ? Math.max(section.startBar, end - barsToLast) : touches ? end - 1 : Math.min(end - 1, firstLineBar)
  // A line that moves along may shorten the last one before it, never take its place.
  const lastBefore = linesAlong ? before?.lines.at(-1) : undefined
  const barsBefore = lastBefore ? Math.floor(lastBefore.startBeat / beatsPerBar + 1e-6) + 1 : 1
  return { min: before ? Math.min(section.startBar, before.startBar + Math.max(1, barsBefore)) : Math.min(1, section.startBar), max }
}

/**
 * Command: a section begins at another bar; it and its neighbour before it grow and shrink. Lines stay where they are sung and go to
 * the section whose bars they are in by then, or move along with the section; one that would reach over the edge is cut there.
 */
export function moveSectionStart(
  song: Song,
  { sectionId, startBar, linesAlong = false }: { sectionId: SectionId; startBar: number; linesAlong?: boolean },
): Song {
  const range = rangeOfSectionStart(song, sectionId, linesAlong)
  if (!Number.isInteger(startBar) || startBar < range.min || startBar > range.max)
    throw new RangeError(`startBar must be from ${range.min} to ${range.max}, got ${startBar}`)
  const { beatsPerBar } = song.beat.grid
  return changeSections(song, sections => {
    const index = sections.findIndex(section => section.id === sectionId)
    const section = sections[index]
    const before = sections[index - 1]
    const end = section.startBar + section.barCount
    const beatsMoved = (startBar - section.startBar) * beatsPerBar
    const shifted = (lines: Line[], beats: number) => lines.map(line => ({ ...line, startBeat: line.startBeat + beats }))
    if (before && (before.startBar + before.barCount === section.startBar || before.startBar + before.barCount > startBar)) {
      const edge = (startBar - before.startBar) * beatsPerBar
      if (!linesAlong) {
        const both = [...before.lines, ...shifted(section.lines, (section.startBar - before.startBar) * beatsPerBar)]
        const isLater = (line: Line) => line.startBeat + line.beatCount / 2 >= edge
        before.lines = both.filter(line => !isLater(line))
        section.lines = shifted(both.filter(isLater), -edge)
      }
      before.barCount = startBar - before.startBar
      before.lines = cutAt(before.lines, edge)
    } else if (!linesAlong) section.lines = shifted(section.lines, -beatsMoved)
    section.barCount = end - startBar
    section.startBar = startBar
  })
}

/** Lines that reach over the last beat of their section end there. All of them begin before it. */
function cutAt(lines: readonly Line[], edge: number): Line[] {
  return lines.map(line => ({ ...line, beatCount: Math.min(line.beatCount, edge - line.startBeat) }))
}

/** Command: a section becomes two at a bar inside it; its lines go to the part that holds more of them, those of the first are cut at its end. */
export function splitSection(song: Song, { sectionId, bar, newSectionId }: { sectionId: SectionId; bar: number; newSectionId: SectionId }): Song {
  const section = requireSection(song.sections, sectionId)
  if (!Number.isInteger(bar) || bar <= section.startBar || bar >= section.startBar + section.barCount)
    throw new RangeError(`bar must lie inside the section, got ${bar}`)
  const splitBeat = (bar - section.startBar) * song.beat.grid.beatsPerBar
  return changeSections(song, sections => {
    const index = sections.findIndex(entry => entry.id === sectionId)
    const first = sections[index]
    const isLater = (line: Line) => line.startBeat + line.beatCount / 2 >= splitBeat
    const later = first.lines.filter(isLater).map(line => ({ ...line, startBeat: line.startBeat - splitBeat }))
    sections.splice(index + 1, 0, {
      id: newSectionId,
      name: `${first.name} b`.slice(0, 120),
      startBar: bar,
      barCount: first.startBar + first.barCount - bar,
      lines: later,
    })
    first.lines = cutAt(
      first.lines.filter(line => !isLater(line)),
      splitBeat,
    )
    first.barCount = bar - first.startBar
  })
}

/** Command: a section takes in the one after it, lines and all. The same song comes back for the last one. */
export function joinSectionWithNext(song: Song, { sectionId }: { sectionId: SectionId }): Song {
  const index = song.sections.findIndex(section => section.id === sectionId)
  if (index < 0 || index === song.sections.length - 1) return song
  return changeSections(song, sections => {
    const [first, next] = [sections[index], sections[index + 1]]
    const shift = (next.startBar - first.startBar) * song.beat.grid.beatsPerBar
    first.lines.push(...next.lines.map(line => ({ ...line, startBeat: line.startBeat + shift })))
    first.barCount = next.startBar + next.barCount - first.startBar
    sections.splice(index + 1, 1)
  })
}

/** Command: a section that sounds like another takes a copy of its lines and its name with the next number; its own lines go. */
export function copySectionInto(song: Song, { fromId, toId, makeId }: { fromId: SectionId; toId: SectionId; makeId: () => string }): Song {
  const from = requireSection(song.sections, fromId)
  const base = from.name.replace(/ \d+$/, '')
  const taken = song.sections
    .filter(section => section.id !== toId && section.name.startsWith(`${base} `))
    .map(section => Number(section.name.slice(base.length + 1)) || 0)
  const copied = changeSections(song, sections => {
    const to = requireSection(sections, toId)
    const beats = to.barCount * song.beat.grid.beatsPerBar
    to.name = `${base} ${Math.max(1, ...taken) + 1}`.slice(0, 120)
    to.lines = from.lines
      .filter(line => line.startBeat < beats)
      .map(line => ({ ...line, id: makeId() as LineId, beatCount: Math.min(line.beatCount, beats - line.startBeat) }))
  })
  return planNewLines(song, copied)
}

/** Chords counted by one grid, counted by another: they stay where they sound. */
export function moveChords(chords: readonly BeatChord[], before: Grid, after: Grid): BeatChord[] {
  const beatNow = (beat: number) => Math.round(beatAtFrame(after, frameOfBeat(before, beat)))
  return chords.flatMap(chord => {
    const startBeat = beatNow(chord.startBeat)
    const beatCount = beatNow(chord.startBeat + chord.beatCount) - startBeat
    return beatCount > 0 ? [{ ...chord, startBeat, beatCount }] : []
  })
}

/** Command: free bars become a section, as far as they are free round a bar. @throws RangeError if the bar belongs to a section. */
export function nameFreeBars(song: Song, { bar, name, makeId }: { bar: number; name: string; makeId: () => string }): Song {
  const gap = freeBars(song).find(({ startBar, barCount }) => bar >= startBar && bar < startBar + barCount)
  if (!gap) throw new RangeError(`bar ${bar} is not free`)
  return changeSections(song, sections => {
    const index = sections.filter(section => section.startBar < gap.startBar).length
    sections.splice(index, 0, { id: makeId() as SectionId, name: name.trim().slice(0, 120) || 'Section', ...gap, lines: [] })
  })
}

/** Bars of the beat that belong to no section, in order. */
export function freeBars({ sections, beat }: Song): { startBar: number; barCount: number }[] {
  const free: { startBar: number; barCount: number }[] = []
  let bar = 1
  for (const { startBar, barCount } of [...sections, { startBar: barCountUntil(beat.grid, beat.frames) + 1, barCount: 0 }]) {
    if (startBar > bar) free.push({ startBar: bar, barCount: startBar - bar })
    bar = Math.max(bar, startBar + barCount)
  }
  return free
}

function changeSections(song: Song, change: (sections: Section[]) => void): Song {
  return produce(song, draft => {
    change(draft.sections)
    const before = new Map(song.sections.map(section => [section.id, section]))
    for (const section of draft.sections) {
      const was = before.get(section.id)
      // Put to bars by hand, it has no other place any more.
      if (was?.startBar !== section.startBar || was.barCount !== section.barCount) delete section.heldAt
    }
    draft.sectionsAreDefault = false
  })
}

function requireSection(sections: Section[], sectionId: SectionId): Section {
  const section = sections.find(entry => entry.id === sectionId)
  if (!section) throw new RangeError(`no section ${sectionId}`)
  return section
}
