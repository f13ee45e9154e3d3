/** Notes as people type them: names with an octave or without, MIDI numbers, one after the other. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { PlacedPartNote } from '../song/part-schema'
import type { FrameRange } from '../song/select'

const SEMITONES: Record<string, number> = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }
const NAME = /^([a-g])([#♯b♭]{0,2})(-?\d)?$/i
const MIDDLE_C = 60

export type TypedNotes = { ok: true; midis: number[] } | { ok: false; unread: string }

/** A name without an octave is the nearest to the note before it, or to middle C. Spaces, commas and hyphens between notes part them. */
export function readTypedNotes(text: string): TypedNotes {
  const midis: number[] = []
  for (const word of text
    .normalize('NFC')
    .split(/[\s,;|]+/)
    .filter(Boolean)) {
    const midi = readNote(word, midis.at(-1) ?? MIDDLE_C)
    if (midi === null) return { ok: false, unread: word }
    midis.push(midi)
  }
  return { ok: true, midis }
}

/** @returns null for what is no note between 0 and 127. */
export function readNote(word: string, near = MIDDLE_C): number | null {
  const name = NAME.exec(word)
  if (!name) return /^\d{1,3}$/.test(word) && Number(word) <= 127 ? Number(word) : null
  const [, letter, signs, octave] = name
  const sharps = [...signs].reduce((sum, sign) => sum + (sign === '#' || sign === '♯' ? 1 : -1), 0)
  const pitchClass = SEMITONES[letter.toLowerCase()] + sharps
  const midi = octave === undefined ? pitchClass + 12 * Math.round((near - pitchClass) / 12) : pitchClass + 12 * (Number(octave) + 1)
  return midi >= 0 && midi <= 127 ? midi : null
}

/** Of a part that is typed before anyone sang, a note lasts so long at most. */
const MOST_SECONDS = 2

/**
 * @param slots Where notes stand already, or the lead's: the typed ones take their places in order; what is left over is not written.
 * @param range Where there are none: the notes share it evenly.
 */
export function typedPart(midis: readonly number[], slots: readonly FrameRange[], range: FrameRange): PlacedPartNote[] {
  if (slots.length > 0) return midis.slice(0, slots.length).map((midi, i) => ({ midi, startFrame: slots[i].startFrame, endFrame: slots[i].endFrame }))
  const each = Math.min(MOST_SECONDS * SAMPLE_RATE_HZ, (range.endFrame - range.startFrame) / Math.max(1, midis.length))
  return midis.map((midi, i) => ({ midi, startFrame: Math.round(range.startFrame + i * each), endFrame: Math.round(range.startFrame + (i + 1) * each) }))
}
