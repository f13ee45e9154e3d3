/** Undo and redo. A step holds only what its command changed, so that facts which arrive by themselves (levels, analyses) are never undone. */
import { applyChange, findChange, type Change } from './change'
import { houseTakes } from './house-takes'
import type { AssetId, Song } from './schema'

export interface Step {
  /** Running: one more than the step before. */
  id: number
  /** What was done, in words for the singer: "pick take 3". */
  label: string
  change: Change
}

/** Steps done, oldest first, and steps undone, next to redo first. */
export interface History {
  song: Song
  done: readonly Step[]
  undone: readonly Step[]
}

export const MAXIMUM_STEPS = 1_000

export function beginHistory(song: Song): History {
  return { song, done: [], undone: [] }
}

/**
 * A command was carried out. A song that is equal to the one before is no step: the same history comes back.
 * @param going The gesture of the last step goes on (a key is held): both are one step.
 */
export function record(history: History, label: string, after: Song, { going = false }: { going?: boolean } = {}): History {
  const last = history.done.at(-1)
  const change = findChange(history.song, after)
  if (!change) return history
  if (!going || !last) return { song: after, done: [...history.done, { id: nextId(history), label, change }].slice(-MAXIMUM_STEPS), undone: [] }
  const earlier = history.done.slice(0, -1)
  const joined = findChange(applyChange(history.song, last.change, 'before'), after)
  // A gesture that ends where it began changed nothing, and is no step.
  return { song: after, done: joined ? [...earlier, { id: last.id, label, change: joined }] : earlier, undone: [] }
}

function nextId({ done, undone }: History): number {
  const last = done.at(-1)
  return last ? last.id + 1 : (undone[0]?.id ?? 1)
}

/** A fact that came by itself, such as a recorded take: it applies to the present, and no step that did not make it takes it back. */
export function amend(history: History, after: Song): History {
  return after === history.song ? history : { ...history, song: after }
}

/** The same history if there is nothing to undo. */
export function undo(history: History): History {
  const step = history.done.at(-1)
  if (!step) return history
  const song = houseTakes(applyChange(history.song, step.change, 'before'), history.song)
  return { song, done: history.done.slice(0, -1), undone: [leading(step, song, history.song), ...history.undone] }
}

/** The same history if there is nothing to redo. */
export function redo(history: History): History {
  const [step, ...others] = history.undone
  if (!step) return history
  const song = houseTakes(applyChange(history.song, step.change, 'after'), history.song)
  return { song, done: [...history.done, leading(step, history.song, song)], undone: others }
}

/**
 * The history as it was right after a step, done or undone, or before the first there is (null): by undoing or redoing one by one.
 * The same history for a step that it does not hold.
 */
export function goTo(history: History, stepId: number | null): History {
  let next = history
  if (stepId === null || history.done.some(step => step.id === stepId)) while (next.done.length > 0 && next.done.at(-1)!.id !== stepId) next = undo(next)
  else if (history.undone.some(step => step.id === stepId)) while (next.done.at(-1)?.id !== stepId) next = redo(next)
  return next
}

/** The step as it now leads from one song to the other: what has been found out meanwhile about what it takes away comes back with it. */
function leading(step: Step, before: Song, after: Song): Step {
  return { ...step, change: findChange(before, after) ?? step.change }
}

/** Sounds that a step would bring back. */
export function assetsOfStep({ change }: Pick<Step, 'change'>): AssetId[] {
  const found = new Set<AssetId>()
  const look = (value: unknown): void => {
    if (typeof value !== 'object' || value === null) return
    for (const [key, part] of Object.entries(value)) {
      if (key === 'assetId' && typeof part === 'string') found.add(part as AssetId)
      else look(part)
    }
  }
  look(change)
  return [...found]
}
