/** Carrying out what changes a song: the result is a song its schema accepts, or nothing happens and it is said why. */
import { findProblem, type SongProblem } from './check'
import type { History } from './history'

export type Outcome =
  | { ok: true; history: History }
  /** The song would not have been sound. */
  | { ok: false; reason: 'not-sound'; problem: SongProblem }
  /** The command itself failed. */
  | { ok: false; reason: 'failed'; error: unknown }

/** @param next A command recorded, an amendment, an undo or a redo. Must not change what it is given. */
export function carryOut(history: History, next: (history: History) => History): Outcome {
  let after: History
  try {
    after = next(history)
  } catch (error) {
    return { ok: false, reason: 'failed', error }
  }
  const problem = findProblem(after.song, history.song)
  return problem ? { ok: false, reason: 'not-sound', problem } : { ok: true, history: after }
}
