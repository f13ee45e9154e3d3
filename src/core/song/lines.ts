/** Commands on single lines of the sheet. What was sung over them stays where it is. */
import { produce } from 'immer'
import type { Line, LineId, Section, Song } from './schema'

/** A line is at least this long, in beats. */
export const SHORTEST_LINE_BEATS = 0.25

/** Command: a line's words. */
export function setLineWords(song: Song, { lineId, words }: { lineId: LineId; words: string }): Song {
  return changeLine(song, lineId, ({ lines, index }) => void (lines[index].words = words.trim().slice(0, 500)))
}

/** Where a line can begin and end, in beats from its section's first: not over the line after it, nor before the one before it. */
export interface LineRoom {
  section: Section
  line: Line
  leastStartBeat: number
  mostEndBeat: number
}

export function roomOfLine(song: Song, lineId: LineId): LineRoom {
  const { section, index, sectionBefore } = findLine(song.sections, lineId)
  const { lines } = section
  const beats = song.beat.grid.beatsPerBar
  const before = lines[index - 1]
  const after = lines[index + 1]
  const end = section.barCount * beats
  // The line before may be shortened. The first line may begin before its section does, up to the last line of the section before.
  const lastBefore = sectionBefore?.lines.at(-1)
  const shift = sectionBefore ? (section.startBar - sectionBefore.startBar) * beats : 0
  const least = lastBefore ? lastBefore.startBeat + lastBefore.beatCount - shift : sectionBefore ? sectionBefore.barCount * beats - shift : 0
  return {
    section,
    line: lines[index],
    leastStartBeat: before ? before.startBeat + SHORTEST_LINE_BEATS : Math.min(least, lines[index].startBeat),
    mostEndBeat: after ? after.startBeat : Math.max(end, lines[index].startBeat + lines[index].beatCount),
  }
}

/**
 * Command: where a line begins and how long it is, in beats from its section's start. A line before it that reaches beyond its new start is cut there.
 * @throws RangeError if it would reach over the line after it, or begin before the one before it.
 */
export function setLineBeats(song: Song, { lineId, startBeat, beatCount }: { lineId: LineId; startBeat: number; beatCount: number }): Song {
  const { leastStartBeat, mostEndBeat } = roomOfLine(song, lineId)
  const isInRoom = startBeat >= leastStartBeat && beatCount >= SHORTEST_LINE_BEATS && startBeat + beatCount <= mostEndBeat
  if (!isInRoom) throw new RangeError(`a line must lie from beat ${leastStartBeat} to ${mostEndBeat}, got ${startBeat} and ${beatCount} beats`)
  return changeLine(song, lineId, ({ lines, index }) => {
    Object.assign(lines[index], { startBeat, beatCount })
    const before = lines[index - 1]
    if (before && before.startBeat + before.beatCount > startBeat) before.beatCount = startBeat - before.startBeat
  })
}

/** Command: a line becomes two at one of its words; each is as long as its share of the words. Without words it is halved. */
export function splitLine(song: Song, { lineId, atWord, newLineId }: { lineId: LineId; atWord: number; newLineId: LineId }): Song {
  return changeLine(song, lineId, ({ lines, index }) => {
    const line = lines[index]
    const words = line.words.split(/\s+/).filter(Boolean)
    if (words.length > 0 && (!Number.isInteger(atWord) || atWord < 1 || atWord >= words.length))
      throw new RangeError(`atWord must be from 1 to ${words.length - 1}, got ${atWord}`)
    if (line.beatCount < 2 * SHORTEST_LINE_BEATS) throw new RangeError('the line is too short to be two')
    const share = words.length > 0 ? atWord / words.length : 0.5
    // At the nearest quarter of a beat, each part with one at least.
    const wanted = Math.round(line.beatCount * share * 4) / 4
    const beatCount = Math.min(line.beatCount - SHORTEST_LINE_BEATS, Math.max(SHORTEST_LINE_BEATS, wanted))
    lines.splice(index + 1, 0, {
      id: newLineId,
      words: words.slice(atWord).join(' '),
      startBeat: line.startBeat + beatCount,
      beatCount: line.beatCount - beatCount,
    })
    lines[index] = { ...line, words: words.slice(0, atWord).join(' '), beatCount }
  })
}

/** Command: a line takes in the one after it in its section, words, time and marks. The same song comes back for the last one. */
export function joinLineWithNext(song: Song, { lineId }: { lineId: LineId }): Song {
  const { section, index } = findLine(song.sections, lineId)
  const next = section.lines[index + 1]
  if (!next) return song
  const joined = changeLine(song, lineId, ({ lines }) => {
    const line = lines[index]
    line.words = `${line.words} ${next.words}`.trim().slice(0, 500)
    line.beatCount = next.startBeat + next.beatCount - line.startBeat
    lines.splice(index + 1, 1)
  })
  return produce(joined, draft => {
    for (const layer of draft.layers) {
      const isMarked = layer.singAgain.some(mark => mark.lineId === lineId)
      layer.singAgain = layer.singAgain.flatMap(mark => (mark.lineId !== next.id ? [mark] : isMarked ? [] : [{ ...mark, lineId }]))
    }
  })
}

function changeLine(song: Song, lineId: LineId, change: (found: { lines: Line[]; index: number }) => void): Song {
  return produce(song, draft => {
    const { section, index } = findLine(draft.sections, lineId)
    change({ lines: section.lines, index })
    draft.sectionsAreDefault = false
  })
}

function findLine(sections: readonly Section[], lineId: LineId): { section: Section; index: number; sectionBefore: Section | undefined } {
  const at = sections.findIndex(entry => entry.lines.some(line => line.id === lineId))
  const section = sections[at]
  if (!section) throw new RangeError(`no line ${lineId}`)
  return { section, index: section.lines.findIndex(line => line.id === lineId), sectionBefore: sections[at - 1] }
}
