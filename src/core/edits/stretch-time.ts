/** The time of a stretch of the song: a word or a phrase that sounds earlier or later than it was sung. */
import { pickAt } from '../comp/picks'
import type { EditId, TimeEdit } from '../song/edit-schema'
import type { Layer, LayerId, Song, TakeId } from '../song/schema'
import { currentComp, overlapFrames, requireTake, type FrameRange } from '../song/select'
import { soundingAt, TIME_REACH_FRAMES, timeMapOf } from '../tune/time-map'
import { changeEdits, setTimeEdit } from './commands'
import { inAsset, originOf } from './in-asset'

/** Places of one take that are moved alike, one after the other: all between them is. Frames of the song, as it was sung. */
export interface MoveInSong extends FrameRange {
  takeId: TakeId
  laterFrames: number
  editIds: EditId[]
}

/** What was moved of what a layer plays in a range, in order. */
export function movesInSong(song: Song, layer: Layer, range: FrameRange): MoveInSong[] {
  return currentComp(layer).picks.flatMap(pick => {
    if (pick.asSung || overlapFrames(pick, range) <= 0) return []
    const take = requireTake(song, pick.takeId)
    const origin = originOf(pick, take)
    const seen = { startFrame: Math.max(pick.startFrame, range.startFrame), endFrame: Math.min(pick.endFrame, range.endFrame) }
    return runsOf(take.edits.times)
      .map(run => ({
        takeId: take.id,
        startFrame: run[0].frame + origin,
        endFrame: run[run.length - 1].frame + origin,
        laterFrames: run[0].laterFrames,
        editIds: run.map(({ id }) => id),
      }))
      .filter(move => move.startFrame < seen.endFrame && move.endFrame >= seen.startFrame)
  })
}

function runsOf(times: readonly TimeEdit[]): TimeEdit[][] {
  const runs: TimeEdit[][] = []
  times.forEach((time, i) => {
    if (time.laterFrames === 0) return
    if (i > 0 && times[i - 1].laterFrames === time.laterFrames) runs[runs.length - 1].push(time)
    else runs.push([time])
  })
  return runs
}

/** By how many frames a moment of the song sounds later than it was sung. */
export function laterAt(song: Song, layerId: LayerId, frame: number): number {
  const pick = pickAt(song, layerId, frame)
  if (!pick || pick.asSung) return 0
  const take = requireTake(song, pick.takeId)
  const at = frame - originOf(pick, take)
  return Math.round(soundingAt(timeMapOf(take.edits.times), at) - at)
}

export interface StretchMove {
  layerId: LayerId
  stretch: FrameRange
  laterFrames: number
  /** Frames of the song that stay where they sound, as far as they lie within reach: where the neighbours begin. */
  holds: readonly number[]
}

/** Nearer than this to a place that stays, the stretch's own end is that place. */
const SAME_PLACE_FRAMES = 1_920

/**
 * Command: what is picked in the middle of a stretch sounds later (negative: earlier) in it than it was sung, in the place of what was moved
 * there; 0: as it was sung. What lies between it and the places that stay is stretched.
 */
export function moveStretch(song: Song, { layerId, stretch, laterFrames, holds, makeId }: StretchMove & { makeId: () => string }): Song {
  const pick = pickAt(song, layerId, Math.round((stretch.startFrame + stretch.endFrame) / 2))
  const take = pick && requireTake(song, pick.takeId)
  const range = pick && take && inAsset(pick, take, stretch)
  if (!pick || !take || !range) return song
  const near = holds
    .map(frame => Math.round(frame - originOf(pick, take)))
    .filter(frame => frame > range.startFrame - TIME_REACH_FRAMES && frame < range.endFrame + TIME_REACH_FRAMES)
  // A neighbour that begins where the stretch ends: it stays, and the stretch becomes longer or shorter.
  const isFollowed = near.some(frame => isSamePlace(frame, range.endFrame))
  const isOwn = ({ frame }: TimeEdit) =>
    frame > range.startFrame - SAME_PLACE_FRAMES && frame < range.endFrame + (isFollowed ? -SAME_PLACE_FRAMES : SAME_PLACE_FRAMES)
  const cleared = changeTimes(song, take.id, times => withoutIdle(times.filter(time => !isOwn(time))))
  if (laterFrames === 0) return cleared
  const { times } = requireTake(cleared, take.id).edits
  const held = near.filter(frame => frame >= 0 && !isSamePlace(frame, range.startFrame) && !times.some(time => isSamePlace(time.frame, frame)))
  const places = [
    ...held.map(frame => ({ frame, laterFrames: 0 })),
    ...(isFollowed ? [range.startFrame] : [range.startFrame, range.endFrame]).map(frame => ({ frame, laterFrames })),
  ]
  return places.reduce((changed, place) => setTimeEdit(changed, { takeId: take.id, edit: { id: makeId() as EditId, ...place } }), cleared)
}

/** Command: what was moved sounds so much later than it was sung; 0: when it was sung. */
export function setMove(song: Song, { takeId, editIds, laterFrames }: { takeId: TakeId; editIds: readonly EditId[]; laterFrames: number }): Song {
  const own = requireTake(song, takeId).edits.times.filter(({ id }) => editIds.includes(id))
  const cleared = changeTimes(song, takeId, times => times.filter(({ id }) => !editIds.includes(id)))
  if (laterFrames === 0) return changeTimes(cleared, takeId, withoutIdle)
  return own.reduce((changed, time) => setTimeEdit(changed, { takeId, edit: { ...time, laterFrames } }), cleared)
}

function isSamePlace(a: number, b: number): boolean {
  return Math.abs(a - b) < SAME_PLACE_FRAMES
}

function changeTimes(song: Song, takeId: TakeId, change: (times: TimeEdit[]) => TimeEdit[]): Song {
  return changeEdits(song, takeId, edits => ({ ...edits, times: change(edits.times) }))
}

/** Places that stay say nothing where no neighbour within reach is moved. */
function withoutIdle(times: readonly TimeEdit[]): TimeEdit[] {
  const holds = (time: TimeEdit, other: TimeEdit | undefined) =>
    other !== undefined && other.laterFrames !== 0 && Math.abs(other.frame - time.frame) <= 2 * TIME_REACH_FRAMES
  return times.filter((time, i) => time.laterFrames !== 0 || holds(time, times[i - 1]) || holds(time, times[i + 1]))
}
