/** A pass held against the part that it was sung to. */
import { median } from '../audio/statistics'
import { MOST_PART_NOTES, type PlacedPartNote } from '../song/part-schema'
import { overlapFrames, type FrameRange } from '../song/select'
import type { Heard } from '../song/tidy-schema'

export interface CheckedNote {
  /** Of the part. */
  note: PlacedPartNote
  /** What was sung there; null where nothing was. In cents from the note, its own octave counted: 1200 is an octave above. */
  centsOff: number | null
}

export interface PartCheck {
  notes: CheckedNote[]
  /** Of those that were sung on the note, how far off they lie in the middle; null if none was. */
  medianCents: number | null
}

/** Further off, another note was sung. */
export const OTHER_NOTE_CENTS = 50
/** Of a note, so much must be sung to tell. */
const LEAST_SHARE = 0.2

/**
 * @param heard Of the take whose frame 0 lies at song frame `originFrame`.
 * @param part Notes of a layer; those in the range are looked at. @param tuningCents The beat's.
 */
export function checkPart(part: readonly PlacedPartNote[], range: FrameRange, heard: Heard, originFrame: number, tuningCents: number): PartCheck {
  const sung = heard.notes.map(([start, end, , , cents]) => ({ startFrame: originFrame + start, endFrame: originFrame + end, cents }))
  const notes = part
    .filter(note => middleIn(note, range))
    .map((note): CheckedNote => {
      const there = sung.filter(other => overlapFrames(other, note) > 0).toSorted((a, b) => overlapFrames(b, note) - overlapFrames(a, note))
      const [most] = there
      const isSung = most && overlapFrames(most, note) >= LEAST_SHARE * (note.endFrame - note.startFrame)
      return { note, centsOff: isSung ? most.cents - 100 * note.midi - tuningCents : null }
    })
  const on = notes.flatMap(({ centsOff }) => (centsOff !== null && Math.abs(centsOff) <= OTHER_NOTE_CENTS ? [centsOff] : []))
  return { notes, medianCents: on.length > 0 ? median(on) : null }
}

/** What was sung in a range, as a part: each note on the nearest whole one. */
export function partAsSung(range: FrameRange, heard: Heard, originFrame: number, tuningCents: number): PlacedPartNote[] {
  return heard.notes
    .map(([start, end, , , cents]) => ({ startFrame: originFrame + start, endFrame: originFrame + end, midi: Math.round((cents - tuningCents) / 100) }))
    .filter(note => middleIn(note, range) && note.midi >= 0 && note.midi <= 127)
    .slice(0, MOST_PART_NOTES)
}

function middleIn(note: FrameRange, range: FrameRange): boolean {
  const middle = (note.startFrame + note.endFrame) / 2
  return middle >= range.startFrame && middle < range.endFrame
}
