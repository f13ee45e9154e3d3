/** Commands on what is laid over a take. */
import { produce } from 'immer'
import {
  FADE_RANGE_FRAMES,
  MOST_LATER_FRAMES,
  NO_EDITS,
  RUNG_RANGE_CENTS,
  SHIFT_RANGE_CENTS,
  type EditId,
  type GainEdit,
  type NoteEdit,
  type TakeEdits,
  type TimeEdit,
} from '../song/edit-schema'
import { clampGain } from '../song/levels'
import type { LayerId, PickId, Song, TakeId } from '../song/schema'
import { currentComp, requireLayer, requireTake } from '../song/select'

/** So much of the take lies between two places at least, before and after they are moved: faster or slower than this it is no voice. */
const LEAST_APART_FRAMES = 480

export type EditCheck = { ok: true } | { ok: false; reason: 'locked'; compNames: string[] }

/** Whether something may be laid over a take: what a locked comp plays is not changed, unless it plays it as sung. */
export function checkEdit(song: Song, takeId: TakeId): EditCheck {
  const compNames = song.layers.flatMap(layer =>
    layer.comps.filter(comp => comp.locked && comp.picks.some(pick => pick.takeId === takeId && !pick.asSung)).map(comp => `${comp.name} of ${layer.name}`),
  )
  return compNames.length > 0 ? { ok: false, reason: 'locked', compNames } : { ok: true }
}

/**
 * Command: a gain over a stretch, in the place of one with the same id.
 * @throws RangeError for a stretch outside the take's sound, or if `checkEdit` says no; so do all that follow.
 */
export function setGainEdit(song: Song, { takeId, edit }: { takeId: TakeId; edit: GainEdit }): Song {
  const fadeFrames = Math.round(within(edit.fadeFrames, FADE_RANGE_FRAMES))
  const laid = { ...inOrder(edit), gainDecibels: clampGain(edit.gainDecibels), fadeFrames }
  return changeEdits(song, takeId, edits => ({ ...edits, gains: byStart([...without(edits.gains, edit.id), laid]) }))
}

/** Command: a note's shift, in the place of one with the same id and of any that it overlaps. @throws RangeError as `setGainEdit`. */
export function setNoteEdit(song: Song, { takeId, edit }: { takeId: TakeId; edit: NoteEdit }): Song {
  const rungCents = edit.rungCents === null ? null : within(edit.rungCents, RUNG_RANGE_CENTS)
  const laid = { ...inOrder(edit), shiftCents: within(edit.shiftCents, SHIFT_RANGE_CENTS), rungCents }
  const apart = (other: NoteEdit) => other.endFrame <= laid.startFrame || other.startFrame >= laid.endFrame
  return changeEdits(song, takeId, edits => ({ ...edits, notes: byStart([...without(edits.notes, edit.id).filter(apart), laid]) }))
}

/**
 * Command: a place that sounds later or earlier, as far as its neighbours let it, in the place of one with the same id. The same song comes back
 * where they leave no room.
 */
export function setTimeEdit(song: Song, { takeId, edit }: { takeId: TakeId; edit: TimeEdit }): Song {
  const others = without(requireTake(song, takeId).edits.times, edit.id)
  const before = others.findLast(other => other.frame < edit.frame)
  const after = others.find(other => other.frame >= edit.frame)
  if (!Number.isInteger(edit.frame) || edit.frame < 0) throw new RangeError(`a place in the take must be a whole number of frames, got ${edit.frame}`)
  if ([before, after].some(other => other && Math.abs(other.frame - edit.frame) < LEAST_APART_FRAMES)) return song
  const least = before ? before.frame + before.laterFrames + LEAST_APART_FRAMES - edit.frame : -MOST_LATER_FRAMES
  const most = after ? after.frame + after.laterFrames - LEAST_APART_FRAMES - edit.frame : MOST_LATER_FRAMES
  const range = { min: Math.max(-MOST_LATER_FRAMES, least), max: Math.min(MOST_LATER_FRAMES, most) }
  // Its neighbours were moved together: between them is no room for another.
  if (range.min > range.max) return song
  const laid = { ...edit, laterFrames: Math.round(within(edit.laterFrames, range)) }
  return changeEdits(song, takeId, edits => ({ ...edits, times: [...others, laid].sort((a, b) => a.frame - b.frame) }))
}

/** Command: edits go; all of a take's, if none are named. */
export function removeEdits(song: Song, { takeId, editIds }: { takeId: TakeId; editIds?: readonly EditId[] }): Song {
  const stays = ({ id }: { id: EditId }) => !editIds!.includes(id)
  return changeEdits(song, takeId, ({ gains, notes, times, mends }) =>
    editIds ? { gains: gains.filter(stays), notes: notes.filter(stays), times: times.filter(stays), mends } : NO_EDITS,
  )
}

/** Command: a pick plays its take without what is laid over it, or with it. @throws RangeError if the comp is locked. */
export function setAsSung(song: Song, { layerId, pickId, asSung }: { layerId: LayerId; pickId: PickId; asSung: boolean }): Song {
  const comp = currentComp(requireLayer(song, layerId))
  if (comp.locked) throw new RangeError(`comp ${comp.id} is locked`)
  return produce(song, draft => {
    const pick = currentComp(requireLayer(draft, layerId)).picks.find(entry => entry.id === pickId)
    if (pick) pick.asSung = asSung
  })
}

/** Edits of a take changed. @throws RangeError if `checkEdit` says no. */
export function changeEdits(song: Song, takeId: TakeId, change: (edits: TakeEdits) => TakeEdits): Song {
  const check = checkEdit(song, takeId)
  if (!check.ok) throw new RangeError(`take ${takeId} is played by locked comps: ${check.compNames.join(', ')}`)
  const edits = change(requireTake(song, takeId).edits)
  return produce(song, draft => {
    requireTake(draft, takeId).edits = edits
  })
}

function without<E extends { id: EditId }>(edits: readonly E[], id: EditId): E[] {
  return edits.filter(edit => edit.id !== id)
}

function byStart<E extends { startFrame: number }>(edits: E[]): E[] {
  return edits.sort((a, b) => a.startFrame - b.startFrame)
}

function inOrder<E extends { startFrame: number; endFrame: number }>(edit: E): E {
  const [startFrame, endFrame] = [edit.startFrame, edit.endFrame]
  if (!Number.isInteger(startFrame) || !Number.isInteger(endFrame) || startFrame < 0 || endFrame <= startFrame)
    throw new RangeError(`a stretch of the take must run from one whole frame to a later one, got ${startFrame} to ${endFrame}`)
  return edit
}

/** In its range; what is no number is as near to 0 as can be. */
export function within(value: number, { min, max }: { min: number; max: number }): number {
  return Number.isNaN(value) ? Math.max(min, Math.min(max, 0)) : Math.max(min, Math.min(max, value))
}
