/** Undo and redo by keeping what was before and after each command. */
import type { Song } from './schema'

export interface Step {
  /** What was done, in words for the singer: "pick take 3". */
  label: string
  before: Song
  after: Song
}

/** Steps done, oldest first, and steps undone, next to redo first. */
export interface History {
  song: Song
  done: readonly Step[]
  undone: readonly Step[]
}

export const MAXIMUM_STEPS = 200

export function beginHistory(song: Song): History {
  return { song, done: [], undone: [] }
}

/** A command was carried out. A song that did not change is no step. */
export function record(history: History, label: string, after: Song): History {
  if (after === history.song) return history
  return { song: after, done: [...history.done, { label, before: history.song, after }].slice(-MAXIMUM_STEPS), undone: [] }
}

/** A change that is no step: it happens in place and undo leaves it standing, as with recorded takes. */
export function amend(history: History, after: Song): History {
  return { ...history, song: after }
}

/** The same history if there is nothing to undo. */
export function undo(history: History): History {
  const step = history.done.at(-1)
  if (!step) return history
  return { song: keepTakes(step.before, history.song), done: history.done.slice(0, -1), undone: [step, ...history.undone] }
}

/** The same history if there is nothing to redo. */
export function redo(history: History): History {
  const [step, ...rest] = history.undone
  if (!step) return history
  return { song: keepTakes(step.after, history.song), done: [...history.done, step], undone: rest }
}

/** Nothing sung is lost: takes recorded since a step stay when that step is undone. A print can be made again. */
function keepTakes(target: Song, current: Song): Song {
  const known = new Set(target.takes.map(take => take.id))
  const later = current.takes.filter(take => !known.has(take.id) && take.printOf === null)
  return later.length === 0 ? target : { ...target, takes: [...target.takes, ...later] }
}
