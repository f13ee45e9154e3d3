/** Where each sung note is drawn to: a rung of the key, or what is written. */
import { scaleSemitones, TONICS, type Key, type ModeColour } from '../beat/key-names'
import { median } from '../audio/statistics'
import { HOP_SECONDS } from '../voice/hop'
import { centsOf, type SungNote } from '../voice/notes'

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

/** Those within an octave of a pitch, rising. */
function rungsNear(cents: number, { key, colour, tuningCents }: Scale): number[] {
  const origin = 100 * TONICS.indexOf(key.tonic) + tuningCents
  const octave = Math.floor((cents - origin) / 1_200)
  return [octave - 1, octave, octave + 1].flatMap(turn => scaleSemitones(key.mode, colour).map(semitone => origin + 1_200 * turn + 100 * semitone))
}

/** The next rung above a pitch (1), or below it (-1). */
export function nextRung(cents: number, by: 1 | -1, scale: Scale): number {
  const rungs = rungsNear(cents, scale)
  return by > 0 ? rungs.find(rung => rung > cents + 1)! : rungs.findLast(rung => rung < cents - 1)!
}

/** The rung of a scale that is nearest; of two as near, the lower one. */
export function nearestRung(cents: number, scale: Scale): number {
  return rungsNear(cents, scale).reduce((best, rung) => (Math.abs(rung - cents) < Math.abs(best - cents) ? rung : best))
}

/** Each note to its rung. A line that is flat or sharp as a whole is taken so: its notes go to the rungs that they lie as far from as their neighbours do. */
export function toScale(notes: readonly SungNote[], scale: Scale): TargetedNote[] {
  return notes.map((note, i) => {
    const rung = nearestRung(note.cents, scale)
    if (Math.abs(rung - note.cents) <= SURE_CENTS) return { ...note, targetCents: rung }
    return { ...note, targetCents: nearestRung(note.cents - leaningOf(besideOf(notes, i), scale), scale) }
  })
}

/** So near to a rung, a note is meant there. */
const SURE_CENTS = 20
/** Notes without a longer rest between them lean together, if they are no further apart than this. */
const REST_SECONDS = 0.3
const TOGETHER_SECONDS = 5
const LEAST_TOGETHER = 4
const MOST_LEANING_CENTS = 60
const LEANING_STEP_CENTS = 5
const SPREAD_CENTS = 14
/** A leaning must explain the notes so much better than none. */
const LEAST_BETTER = 2.2
/** Longer notes say no more than one of this length. */
const MOST_WEIGHT_SECONDS = 0.5

/** A note and those that are sung with it. */
function besideOf(notes: readonly SungNote[], at: number): SungNote[] {
  let [first, last] = [at, at]
  const isNear = (i: number) => Math.abs(notes[i].startSeconds - notes[at].startSeconds) <= TOGETHER_SECONDS
  while (first > 0 && notes[first].startSeconds - notes[first - 1].endSeconds <= REST_SECONDS && isNear(first - 1)) first--
  while (last + 1 < notes.length && notes[last + 1].startSeconds - notes[last].endSeconds <= REST_SECONDS && isNear(last + 1)) last++
  return notes.slice(first, last + 1)
}

/** By how many cents notes are high (or low, if negative) together; 0 where they do not say. */
function leaningOf(beside: readonly SungNote[], scale: Scale): number {
  if (beside.length < LEAST_TOGETHER) return 0
  const explains = (leaning: number) =>
    (1 - Math.abs(leaning) / 400) *
    beside.reduce((sum, { cents, startSeconds, endSeconds }) => {
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

/** A note that is written for a voice. */
export interface WrittenNote {
  startSeconds: number
  endSeconds: number
  midi: number
}

/** Shorter parts of a sung note are none. */
const LEAST_PART_SECONDS = 0.06
/** Where it is cut: at the pitch's greatest move over so long, within so far of what is written. */
const STEP_HOPS = 6
const SEARCH_HOPS = 20
const LEAST_STEP_CENTS = 20
/** Further than this from what is written, something else was sung. */
const MOST_CENTS = 350

/**
 * Each sung note goes to the written one that lies over most of it; where it lies under two, it is cut.
 * Notes with nothing written over them are left.
 */
export function toWritten(notes: readonly SungNote[], written: readonly WrittenNote[], { f0Hz }: { f0Hz: Float32Array }): TargetedNote[] {
  return notes
    .flatMap(note => partsOf(note, written, f0Hz))
    .map(note => {
      const overlap = (other: WrittenNote) => Math.min(note.endSeconds, other.endSeconds) - Math.max(note.startSeconds, other.startSeconds)
      const over = written.filter(other => overlap(other) > 0).sort((a, b) => overlap(b) - overlap(a))[0]
      const targetCents = over ? 100 * over.midi : null
      return { ...note, targetCents: targetCents !== null && Math.abs(targetCents - note.cents) <= MOST_CENTS ? targetCents : null }
    })
}

function partsOf(note: SungNote, written: readonly WrittenNote[], f0Hz: Float32Array): SungNote[] {
  const cuts = written
    .filter((other, i) => i > 0 && written[i - 1].midi !== other.midi)
    .map(({ startSeconds }) => stepNear(f0Hz, startSeconds))
    .filter(seconds => seconds - note.startSeconds >= LEAST_PART_SECONDS && note.endSeconds - seconds >= LEAST_PART_SECONDS)
  const edges = [note.startSeconds, ...cuts, note.endSeconds]
  return edges.slice(1).map((endSeconds, i) => {
    const startSeconds = edges[i]
    const within = (seconds: number) => Math.max(startSeconds, Math.min(endSeconds, seconds))
    const cents = cuts.length === 0 ? note.cents : medianCents(f0Hz, startSeconds, endSeconds)
    return { ...note, startSeconds, endSeconds, heldFromSeconds: within(note.heldFromSeconds), heldToSeconds: within(note.heldToSeconds), cents }
  })
}

/** Where the pitch moves most near a time that is written; that time, where it hardly moves. */
function stepNear(f0Hz: Float32Array, seconds: number): number {
  let best = Math.round(seconds / HOP_SECONDS)
  let most = LEAST_STEP_CENTS
  for (let hop = best - SEARCH_HOPS, last = best + SEARCH_HOPS; hop <= last; hop++) {
    const move = Math.abs(centsOf(f0Hz[hop + STEP_HOPS]) - centsOf(f0Hz[hop - STEP_HOPS]))
    if (!(move > most)) continue
    most = move
    best = hop
  }
  return best * HOP_SECONDS
}

function medianCents(f0Hz: Float32Array, startSeconds: number, endSeconds: number): number {
  const cents: number[] = []
  for (let hop = Math.round(startSeconds / HOP_SECONDS); hop < Math.round(endSeconds / HOP_SECONDS); hop++) if (f0Hz[hop] > 0) cents.push(centsOf(f0Hz[hop]))
  return median(cents)
}
