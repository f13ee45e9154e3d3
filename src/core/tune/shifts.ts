/** By how many cents a voice is moved, from moment to moment, so that its notes come to lie on their rungs. */
import { smoothed } from '../audio/smoothed'
import { HOP_SECONDS } from '../voice/hop'
import { centsOf } from '../voice/notes'
import type { TargetedNote } from './targets'
import type { TuneSettings } from '../song/tidy-schema'

/** About a turn of vibrato: what is slower is the course of the note. */
const TURN_HOPS = 36
/** From one note to the next the shift changes over so long: hardly any where glides are not kept. */
const LEAST_CHANGE_HOPS = 2
const CHANGE_HOPS = 10
/** Where the pitch is less certain than this, the voice is left alone. */
const CLARITY = { none: 0.5, all: 0.6 }
const CERTAIN_HOPS = 8
/** A held pitch leaps no further from its middle than this, beside its vibrato: what does is misread, or a consonant. */
const MOST_AWAY_CENTS = 45

/**
 * @param voice The pitch by hop, 0 for none, and how certain it is.
 * @returns by hop; 0 where nothing is moved, and everywhere that there is no pitch.
 */
export function shiftsOf(
  { f0Hz, clarity }: { f0Hz: Float32Array; clarity: Float32Array },
  notes: readonly TargetedNote[],
  settings: Omit<TuneSettings, 'throatSemitones'>,
): Float32Array {
  const shifts = new Float32Array(f0Hz.length)
  for (const note of notes) if (isMoved(note, settings)) shiftNote(shifts, f0Hz, note, settings)
  const change = Math.round(LEAST_CHANGE_HOPS + settings.glidesKept * (CHANGE_HOPS - LEAST_CHANGE_HOPS))
  const even = smoothedWithinVoice(shifts, f0Hz, change)
  // One moment of little certainty in a clear vowel is a resonance that moves.
  const certain = smoothedWithinVoice(clarity, f0Hz, CERTAIN_HOPS).map(value => Math.max(0, Math.min(1, (value - CLARITY.none) / (CLARITY.all - CLARITY.none))))
  return even.map((shift, hop) => (f0Hz[hop] > 0 ? shift * certain[hop] : 0))
}

/** Between two hops a straight line. */
export function shiftAt(shifts: Float32Array, hop: number): number {
  const before = Math.min(shifts.length - 1, Math.floor(hop))
  const after = Math.min(shifts.length - 1, before + 1)
  return shifts[before] + (hop - Math.floor(hop)) * (shifts[after] - shifts[before])
}

/** Whether a note is far enough off its rung. */
export function isMoved(
  { cents, targetCents }: Pick<TargetedNote, 'cents' | 'targetCents'>,
  { toleranceCents, amount }: Pick<TuneSettings, 'toleranceCents' | 'amount'>,
): boolean {
  return targetCents !== null && amount > 0 && Math.abs(targetCents - cents) > toleranceCents
}

function shiftNote(
  shifts: Float32Array,
  f0Hz: Float32Array,
  note: TargetedNote,
  { speedMilliseconds, amount, vibratoKept, glidesKept }: Omit<TuneSettings, 'throatSemitones'>,
): void {
  const hopOf = (seconds: number) => Math.max(0, Math.min(f0Hz.length, Math.round(seconds / HOP_SECONDS)))
  const [from, to] = [hopOf(note.startSeconds), hopOf(note.endSeconds)]
  const [heldFrom, heldTo] = [hopOf(note.heldFromSeconds), hopOf(note.heldToSeconds)]
  const target = note.targetCents!
  const all = target - note.cents
  const away = MOST_AWAY_CENTS + 1.3 * note.vibratoCents
  const held = bridged(f0Hz, heldFrom, heldTo, note.cents).map(cents => Math.max(note.cents - away, Math.min(note.cents + away, cents)))
  const slow = smoothed(held, note.vibratoHz > 0 ? 1 / note.vibratoHz / HOP_SECONDS : TURN_HOPS)
  // What the note does faster than the speed stays; slower drift is drawn to the rung.
  const speed = speedMilliseconds / 1_000 / HOP_SECONDS
  const drift = smoothed(slow, speed)
  // A note shorter than that keeps its shape.
  const wide = Math.min(1, held.length / Math.max(1, 2 * speed))
  for (let hop = from; hop < to; hop++) {
    if (f0Hz[hop] === 0) continue
    const i = hop - heldFrom
    if (i >= 0 && i < held.length) {
      const drawn = wide * (note.cents - drift[i]) + (1 - vibratoKept) * (slow[i] - held[i])
      shifts[hop] = amount * (all + drawn)
    } else shifts[hop] = amount * (glidesKept * all + (1 - glidesKept) * (target - centsOf(f0Hz[hop])))
  }
}

/** Hops of the voice in cents; where it is lost for a moment, what is round it. */
function bridged(f0Hz: Float32Array, from: number, to: number, usual: number): Float32Array {
  const cents = new Float32Array(Math.max(0, to - from))
  let last = usual
  for (let hop = from; hop < to; hop++) {
    if (f0Hz[hop] > 0) last = centsOf(f0Hz[hop])
    cents[hop - from] = last
  }
  return cents
}

/** A running mean over the voiced hops only: a shift is not thinned out where voice begins. */
function smoothedWithinVoice(values: Float32Array, f0Hz: Float32Array, hops: number): Float32Array {
  const result = new Float32Array(values.length)
  const half = Math.max(0, Math.round(hops / 2))
  for (let hop = 0; hop < values.length; hop++) {
    if (f0Hz[hop] === 0) continue
    let sum = 0
    let count = 0
    for (let k = hop; k >= Math.max(0, hop - half) && f0Hz[k] > 0; k--) {
      sum += values[k]
      count++
    }
    for (let k = hop + 1; k <= Math.min(values.length - 1, hop + half) && f0Hz[k] > 0; k++) {
      sum += values[k]
      count++
    }
    result[hop] = sum / count
  }
  return result
}
