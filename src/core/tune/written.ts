/** Sung notes drawn to notes that are written for the voice. */
import { median } from '../audio/statistics'
import { HOP_SECONDS } from '../voice/hop'
import { centsOf, type SungNote } from '../voice/notes'
import type { TargetedNote } from './targets'

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
 * @param mostCents Further than this from what is written, something else was sung.
 */
export function toWritten(
  notes: readonly SungNote[],
  written: readonly WrittenNote[],
  { f0Hz }: { f0Hz: Float32Array },
  mostCents = MOST_CENTS,
): TargetedNote[] {
  return notes
    .flatMap(note => partsOf(note, written, f0Hz))
    .map(note => {
      const overlap = (other: WrittenNote) => Math.min(note.endSeconds, other.endSeconds) - Math.max(note.startSeconds, other.startSeconds)
      const over = written.filter(other => overlap(other) > 0).sort((a, b) => overlap(b) - overlap(a))[0]
      const targetCents = over ? 100 * over.midi : null
      return { ...note, targetCents: targetCents !== null && Math.abs(targetCents - note.cents) <= mostCents ? targetCents : null }
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
