/** Where each sung note is drawn to: a rung of the key. */
import { scaleSemitones, TONICS, type Key, type ModeColour } from '../beat/key-names'
import type { SungNote } from '../voice/notes'

/** Cents as `SungNote` counts them; null: it is left as it was sung. */
export interface TargetedNote extends SungNote {
  targetCents: number | null
}

export interface Scale {
  key: Key
  colour: ModeColour | null
  /** How much higher than 440 Hz the beat is tuned. */
  tuningCents: number
}

/** The next rung above a pitch (1), or below it (-1). */
export function nextRung(cents: number, by: 1 | -1, { key, colour, tuningCents }: Scale): number {
  const origin = 100 * TONICS.indexOf(key.tonic) + tuningCents
  const octave = Math.floor((cents - origin) / 1_200)
  const rungs = [octave - 1, octave, octave + 1].flatMap(turn => scaleSemitones(key.mode, colour).map(semitone => origin + 1_200 * turn + 100 * semitone))
  return by > 0 ? rungs.find(rung => rung > cents + 1)! : rungs.findLast(rung => rung < cents - 1)!
}

/** The rung of a scale that is nearest; of two as near, the lower one. Asked for thousands of times a line: nothing is laid out for it. */
export function nearestRung(cents: number, { key, colour, tuningCents }: Scale): number {
  const origin = 100 * TONICS.indexOf(key.tonic) + tuningCents
  const octave = 1_200 * Math.floor((cents - origin) / 1_200)
  const within = cents - origin - octave
  // The tonic below, which every scale has; at last the one above.
  let best = 0
  for (const semitone of scaleSemitones(key.mode, colour)) if (Math.abs(100 * semitone - within) < Math.abs(best - within)) best = 100 * semitone
  if (1_200 - within < Math.abs(best - within)) best = 1_200
  return origin + octave + best
}

/** Each note to its rung. A line that is flat or sharp as a whole is taken so: its notes go to the rungs that they lie as far from as their neighbours do. */
export function toScale(notes: readonly SungNote[], scale: Scale): TargetedNote[] {
  return linesOf(notes).flatMap(line => {
    const leaning = leaningOf(line, scale)
    return line.map(note => {
      const rung = nearestRung(note.cents, scale)
      const isSure = Math.abs(rung - note.cents) <= SURE_CENTS
      return { ...note, targetCents: isSure ? rung : nearestRung(note.cents - leaning, scale) }
    })
  })
}

/** A note further than this from every note of the chord goes through it, and stays on the rung of the key. */
const MOST_FROM_CHORD_CENTS = 150

/**
 * The nearest note of a chord; null where none is near.
 * @param keyRung Where the note is meant in the key: what is not clearly a note of the chord is taken from there, as a line may be flat as a whole.
 * @param tones Semitones from C.
 */
export function chordRung(cents: number, keyRung: number, tones: readonly number[], tuningCents: number): number | null {
  const nearest = nearestTone(cents, tones, tuningCents)
  return nearest !== null && Math.abs(nearest - cents) <= SURE_CENTS ? nearest : nearestTone(keyRung, tones, tuningCents)
}

function nearestTone(cents: number, tones: readonly number[], tuningCents: number): number | null {
  let best: number | null = null
  for (const tone of tones) {
    const origin = 100 * tone + tuningCents
    const rung = origin + 1_200 * Math.round((cents - origin) / 1_200)
    if (Math.abs(rung - cents) <= MOST_FROM_CHORD_CENTS && (best === null || Math.abs(rung - cents) < Math.abs(best - cents))) best = rung
  }
  return best
}

/** A note of another voice, where it is meant. */
export interface GuideNote {
  startFrame: number
  endFrame: number
  cents: number
}

/** So much of a note at least sounds together with the guide's. */
const LEAST_TOGETHER_SHARE = 0.3
/** What is further off than this is another part: a third above is not drawn down to the lead. */
const MOST_FROM_GUIDE_CENTS = 250

/** The note of the guide that sounds longest together with a note, in the octave next to it; null where there is none, or another part is sung. */
export function guideRung({ startFrame, endFrame, cents }: GuideNote, guide: readonly GuideNote[]): number | null {
  const together = (note: GuideNote) => Math.min(endFrame, note.endFrame) - Math.max(startFrame, note.startFrame)
  let best: GuideNote | null = null
  for (const note of guide) if (together(note) >= LEAST_TOGETHER_SHARE * (endFrame - startFrame) && (!best || together(note) > together(best))) best = note
  if (!best) return null
  const rung = best.cents + 1_200 * Math.round((cents - best.cents) / 1_200)
  return Math.abs(rung - cents) <= MOST_FROM_GUIDE_CENTS ? rung : null
}

/** So near to a rung, a note is meant there. */
const SURE_CENTS = 20
/** Notes without a longer rest between them are one line, up to so many seconds of them. */
const REST_SECONDS = 0.3
const MOST_LINE_SECONDS = 8
const LEAST_TOGETHER = 4
const MOST_LEANING_CENTS = 60
const LEANING_STEP_CENTS = 5
const SPREAD_CENTS = 14
/** A leaning must explain the notes so much better than none. */
const LEAST_BETTER = 2.2
/** Longer notes say no more than one of this length. */
const MOST_WEIGHT_SECONDS = 0.5

function linesOf(notes: readonly SungNote[]): SungNote[][] {
  const lines: SungNote[][] = []
  for (const note of notes) {
    const line = lines.at(-1)
    const goesOn = line && note.startSeconds - line[line.length - 1].endSeconds <= REST_SECONDS && note.endSeconds - line[0].startSeconds <= MOST_LINE_SECONDS
    if (goesOn) line.push(note)
    else lines.push([note])
  }
  return lines
}

/** By how many cents notes are high (or low, if negative) together; 0 where they do not say. */
function leaningOf(line: readonly SungNote[], scale: Scale): number {
  if (line.length < LEAST_TOGETHER) return 0
  const explains = (leaning: number) =>
    (1 - Math.abs(leaning) / 400) *
    line.reduce((sum, { cents, startSeconds, endSeconds }) => {
      const away = (cents - leaning - nearestRung(cents - leaning, scale)) / SPREAD_CENTS
      return sum + Math.min(MOST_WEIGHT_SECONDS, endSeconds - startSeconds) * Math.exp(-0.5 * away * away)
    }, 0)
  const none = explains(0)
  let best = 0
  let most = LEAST_BETTER * none
  for (let leaning = -MOST_LEANING_CENTS; leaning <= MOST_LEANING_CENTS; leaning += LEANING_STEP_CENTS) {
    const explained = explains(leaning)
    if (explained <= most) continue
    most = explained
    best = leaning
  }
  return best
}
