/** A part for another voice, made from the lead's notes: so many steps of the key away, on the chord where a note is held. */
import { chordTones, type ChordName } from '../beat/chord-names'
import { scaleSemitones, TONICS, type Key, type ModeColour } from '../beat/key-names'

export interface PartNote {
  startSeconds: number
  endSeconds: number
  /** A whole number; 60 is middle C. */
  midi: number
}

export interface PlacedChord extends ChordName {
  startSeconds: number
  endSeconds: number
}

export const PART_KINDS = ['third-above', 'third-below', 'fifth-above', 'sixth-above', 'sixth-below', 'octave-above', 'octave-below', 'unison'] as const
export type PartKind = (typeof PART_KINDS)[number]

/** By steps of the scale, to the chord only where a note is held; or on notes of the chord throughout, which moves less. */
export const READINGS = ['steps', 'chords'] as const
export type Reading = (typeof READINGS)[number]

/** Steps of the scale; seven are an octave. */
const STEPS: Record<PartKind, number> = {
  'third-above': 2,
  'third-below': -2,
  'fifth-above': 4,
  'sixth-above': 5,
  'sixth-below': -5,
  'octave-above': 7,
  'octave-below': -7,
  unison: 0,
}

/** A note held as long as this is heard against its chord; a shorter one passes. */
const HELD_SECONDS = 0.45
/** A note that begins this near to where a chord comes in is strong. */
const STRONG_SECONDS = 0.08
const LEAST_STRONG_SECONDS = 0.25
/** No further than this from the step of the scale a note of the chord is taken. */
const MOST_AWAY = 2
/** Where that note would rub against another voice. */
const MOST_AWAY_FROM_CLASH = 5

export interface PartOptions {
  key: Key
  colour?: ModeColour | null
  /** In order; none: every note goes by steps of the scale. */
  chords?: readonly PlacedChord[]
  reading?: Reading
  /** What other voices sing meanwhile: a held note a semitone from one of theirs is avoided. */
  others?: readonly PartNote[]
}

/**
 * @param lead In order, without overlap.
 * @returns one note for each of the lead's. An octave is the lead's own line; of the others, notes that are held or strong go to the nearest note of
 * their chord, unless that is the lead's own note or crosses it.
 */
export function makePart(
  lead: readonly PartNote[],
  kind: PartKind,
  { key, colour = null, chords = [], reading = 'steps', others = [] }: PartOptions,
): PartNote[] {
  const steps = STEPS[kind]
  const rungs = rungsOf(key, colour)
  let before: number | null = null
  return lead.map(note => {
    const byStep = stepped(note.midi, steps, rungs)
    const midi = steps % 7 === 0 ? byStep : onChord(note, byStep, Math.sign(steps), { chords, before, reading, others })
    before = midi
    return { ...note, midi }
  })
}

/** Every note of the scale from -12 to 139, so that a step from any note is there. */
function rungsOf(key: Key, colour: ModeColour | null): number[] {
  const tonic = TONICS.indexOf(key.tonic)
  const within = scaleSemitones(key.mode, colour).map(semitone => (tonic + semitone) % 12)
  return Array.from({ length: 152 }, (_, i) => i - 12).filter(midi => within.includes(((midi % 12) + 12) % 12))
}

/** From a note outside the scale the steps count from the note of the scale below it, and what it is above that it stays above. */
function stepped(midi: number, steps: number, rungs: readonly number[]): number {
  if (steps % 7 === 0) return midi + (12 * steps) / 7
  const at = rungs.findLastIndex(rung => rung <= midi)
  const to = rungs[at + steps]
  return to + (rungs[at] === midi ? 0 : nearerRung(to + midi - rungs[at], rungs) - to)
}

function nearerRung(midi: number, rungs: readonly number[]): number {
  return rungs.reduce((best, rung) => (Math.abs(rung - midi) < Math.abs(best - midi) ? rung : best))
}

function onChord(
  note: PartNote,
  byStep: number,
  side: number,
  { chords, before, reading, others }: Required<Pick<PartOptions, 'chords' | 'reading' | 'others'>> & { before: number | null },
): number {
  const length = note.endSeconds - note.startSeconds
  const chord = chordOver(note, chords)
  const isStrong = chord !== null && Math.abs(note.startSeconds - chord.startSeconds) <= STRONG_SECONDS && length >= LEAST_STRONG_SECONDS
  if (!chord || (reading === 'steps' && length < HELD_SECONDS && !isStrong)) return byStep
  const tones = chordTones(chord)
  const isTone = (midi: number) => tones.includes(((midi % 12) + 12) % 12)
  const clashes = (midi: number) =>
    length >= HELD_SECONDS && others.some(other => overlapOf(note, other) > 0 && [1, 11].includes(Math.abs(midi - other.midi) % 12))
  if (isTone(byStep) && !clashes(byStep)) return byStep
  const away = (midi: number) => Math.abs(midi - byStep) + (before === null ? 0 : 0.1 * Math.abs(midi - before))
  const reach = clashes(byStep) ? MOST_AWAY_FROM_CLASH : MOST_AWAY
  const candidates = Array.from({ length: 2 * reach + 1 }, (_, i) => byStep + i - reach).filter(
    midi => isTone(midi) && !clashes(midi) && side * (midi - note.midi) > 0 && (midi - note.midi) % 12 !== 0,
  )
  return candidates.length > 0 ? candidates.reduce((best, midi) => (away(midi) < away(best) ? midi : best)) : byStep
}

/** The one that sounds over most of the note. */
function chordOver(note: PartNote, chords: readonly PlacedChord[]): PlacedChord | null {
  const over = chords.filter(chord => overlapOf(note, chord) > 0)
  return over.length > 0 ? over.reduce((best, chord) => (overlapOf(note, chord) > overlapOf(note, best) ? chord : best)) : null
}

function overlapOf(a: { startSeconds: number; endSeconds: number }, b: { startSeconds: number; endSeconds: number }): number {
  return Math.min(a.endSeconds, b.endSeconds) - Math.max(a.startSeconds, b.startSeconds)
}

/** Shorter than this no note of a held part is worth a breath. */
const LEAST_HELD_SECONDS = 0.3

/**
 * A note of each chord, held over stretches: each as near to the one before as the chords allow, the first as near as can be to a height.
 * @param stretches In order: lines, or the lead's phrases. @param nearMidi Where the voice lies well.
 */
export function heldPart(stretches: readonly { startSeconds: number; endSeconds: number }[], chords: readonly PlacedChord[], nearMidi: number): PartNote[] {
  const notes: PartNote[] = []
  let before = nearMidi
  for (const stretch of stretches) {
    for (const chord of chords) {
      const startSeconds = Math.max(stretch.startSeconds, chord.startSeconds)
      const endSeconds = Math.min(stretch.endSeconds, chord.endSeconds)
      if (endSeconds - startSeconds < LEAST_HELD_SECONDS) continue
      const tones = chordTones(chord)
      const reachable = Array.from({ length: 25 }, (_, i) => Math.round(before) + i - 12).filter(midi => tones.includes(((midi % 12) + 12) % 12))
      // Of two as near to the note before, the one nearer to where the voice lies.
      const away = (midi: number) => Math.abs(midi - before) + 0.01 * Math.abs(midi - nearMidi)
      const midi = reachable.reduce((best, tone) => (away(tone) < away(best) ? tone : best), reachable[0])
      const last = notes.at(-1)
      if (last && last.midi === midi && last.endSeconds === startSeconds) last.endSeconds = endSeconds
      else notes.push({ startSeconds, endSeconds, midi })
      before = midi
    }
  }
  return notes
}

/** What was sung, as whole notes on the rungs that it is meant on. */
export function leadNotes(
  notes: readonly { startSeconds: number; endSeconds: number; targetCents: number | null; cents: number }[],
  tuningCents = 0,
): PartNote[] {
  return notes.map(({ startSeconds, endSeconds, targetCents, cents }) => ({
    startSeconds,
    endSeconds,
    midi: Math.round(((targetCents ?? cents) - tuningCents) / 100),
  }))
}
