/** Commands on the song's sections, its grid and its key. */
import { produce } from 'immer'
import { barCountUntil, beatAtFrame, frameOfBar, frameOfBeat, sameGrid, TEMPO_RANGE_BPM, type Grid } from '../beat/grid'
import type { BeatChord, LineId, Section, SectionId, Song } from './schema'

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
 * Command: another tempo, bar one or metre. Default blocks are laid anew. Other sections keep their bars when the tempo
 * only moves a little; when it is halved or doubled they keep their place in time, rounded to bars of the new grid.
 * @throws RangeError if the tempo or the metre is none that bars can be counted by.
 */
export function setGrid(song: Song, { grid, makeId, source = 'typed' }: { grid: Grid; makeId: () => string; source?: Source }): Song {
  requireCountable(grid)
  const before = song.beat.grid
  if (sameGrid(grid, before) && source === song.beat.gridSource) return song
  return produce(song, draft => {
    draft.beat.grid = grid
    draft.beat.gridSource = source
    draft.beat.chords = moveChords(song.beat.chords, before, grid)
    draft.sections = isInBlocks(song) ? defaultSections(grid, song.beat.frames, makeId) : moveSections(song.sections, before, grid)
  })
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

/** Sections counted by one grid, counted by another. */
export function moveSections(sections: readonly Section[], before: Grid, after: Grid): Section[] {
  const ratio = after.tempoBpm / before.tempoBpm
  if (Math.abs(ratio - 1) < 0.1 && after.beatsPerBar === before.beatsPerBar) return [...sections]
  const barAt = (bar: number) => Math.round(beatAtFrame(after, frameOfBar(before, bar)) / after.beatsPerBar) + 1
  let freeFrom = -Infinity
  return sections.map(section => {
    const startBar = Math.max(barAt(section.startBar), freeFrom)
    const barCount = Math.max(1, barAt(section.startBar + section.barCount) - startBar)
    freeFrom = startBar + barCount
    return {
      ...section,
      startBar,
      barCount,
      lines: section.lines.map(line => ({ ...line, startBeat: line.startBeat * ratio, beatCount: line.beatCount * ratio })),
    }
  })
}

/** Command: another name for a section. */
export function renameSection(song: Song, { sectionId, name }: { sectionId: SectionId; name: string }): Song {
  return changeSections(song, sections => {
    requireSection(sections, sectionId).name = name.trim().slice(0, 120) || 'Section'
  })
}

/** How many bars a section's start may move: its neighbour and itself keep at least one bar. */
export function rangeOfSectionStart(song: Song, sectionId: SectionId): { min: number; max: number } {
  const index = song.sections.findIndex(section => section.id === sectionId)
  const section = song.sections[index]
  const before = song.sections[index - 1]
  return { min: before ? before.startBar + 1 : Math.min(1, section.startBar), max: section.startBar + section.barCount - 1 }
}

/** Command: a section begins at another bar; it and its neighbour before it grow and shrink, nothing else moves. */
export function moveSectionStart(song: Song, { sectionId, startBar }: { sectionId: SectionId; startBar: number }): Song {
  const range = rangeOfSectionStart(song, sectionId)
  if (!Number.isInteger(startBar) || startBar < range.min || startBar > range.max)
    throw new RangeError(`startBar must be from ${range.min} to ${range.max}, got ${startBar}`)
  return changeSections(song, sections => {
    const index = sections.findIndex(section => section.id === sectionId)
    const section = sections[index]
    const before = sections[index - 1]
    if (before && before.startBar + before.barCount === section.startBar) before.barCount = startBar - before.startBar
    else if (before && before.startBar + before.barCount > startBar) before.barCount = startBar - before.startBar
    section.barCount += section.startBar - startBar
    section.startBar = startBar
  })
}

/** Command: a section becomes two at a bar inside it; its lines go to the part they begin in. */
export function splitSection(song: Song, { sectionId, bar, newSectionId }: { sectionId: SectionId; bar: number; newSectionId: SectionId }): Song {
  const section = requireSection(song.sections, sectionId)
  if (!Number.isInteger(bar) || bar <= section.startBar || bar >= section.startBar + section.barCount)
    throw new RangeError(`bar must lie inside the section, got ${bar}`)
  const splitBeat = (bar - section.startBar) * song.beat.grid.beatsPerBar
  return changeSections(song, sections => {
    const index = sections.findIndex(entry => entry.id === sectionId)
    const first = sections[index]
    const later = first.lines.filter(line => line.startBeat >= splitBeat).map(line => ({ ...line, startBeat: line.startBeat - splitBeat }))
    sections.splice(index + 1, 0, {
      id: newSectionId,
      name: `${first.name} b`.slice(0, 120),
      startBar: bar,
      barCount: first.startBar + first.barCount - bar,
      lines: later,
    })
    first.lines = first.lines.filter(line => line.startBeat < splitBeat)
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

/** Command: a line's words. */
export function setLineWords(song: Song, { lineId, words }: { lineId: LineId; words: string }): Song {
  return produce(song, draft => {
    for (const section of draft.sections) for (const line of section.lines) if (line.id === lineId) line.words = words.trim().slice(0, 500)
  })
}

/** Command: where a line begins and how long it is, in beats from its section's start. */
export function setLineBeats(song: Song, { lineId, startBeat, beatCount }: { lineId: LineId; startBeat: number; beatCount: number }): Song {
  return changeSections(song, sections => {
    for (const section of sections) {
      for (const line of section.lines) if (line.id === lineId) Object.assign(line, { startBeat, beatCount })
      section.lines.sort((a, b) => a.startBeat - b.startBeat)
    }
  })
}

/** Command: a section that sounds like another takes a copy of its lines and its name with the next number; its own lines go. */
export function copySectionInto(song: Song, { fromId, toId, makeId }: { fromId: SectionId; toId: SectionId; makeId: () => string }): Song {
  const from = requireSection(song.sections, fromId)
  const base = from.name.replace(/ \d+$/, '')
  const taken = song.sections
    .filter(section => section.id !== toId && section.name.startsWith(`${base} `))
    .map(section => Number(section.name.slice(base.length + 1)) || 0)
  return changeSections(song, sections => {
    const to = requireSection(sections, toId)
    const beats = to.barCount * song.beat.grid.beatsPerBar
    to.name = `${base} ${Math.max(1, ...taken) + 1}`.slice(0, 120)
    to.lines = from.lines
      .filter(line => line.startBeat < beats)
      .map(line => ({ ...line, id: makeId() as LineId, beatCount: Math.min(line.beatCount, beats - line.startBeat) }))
  })
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

function changeSections(song: Song, change: (sections: Section[]) => void): Song {
  return produce(song, draft => {
    change(draft.sections)
    draft.sectionsAreDefault = false
  })
}

function requireSection(sections: Section[], sectionId: SectionId): Section {
  const section = sections.find(entry => entry.id === sectionId)
  if (!section) throw new RangeError(`no section ${sectionId}`)
  return section
}
