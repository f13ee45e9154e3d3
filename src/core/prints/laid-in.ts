/** What is laid over what a layer plays in a stretch of the song: its notes, and its mends. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { Mend } from '../edits/tidy'
import type { NoteEdit } from '../song/edit-schema'
import type { Layer, Song, TakeId } from '../song/schema'
import { currentComp, overlapFrames, requireTake, type FrameRange } from '../song/select'
import type { Heard, TuneSettings } from '../song/tidy-schema'
import { isMoved } from '../tune/shifts'
import type { TargetedNote } from '../tune/targets'
import { allMendsOf, notesOfTake } from './laid-over'

/** Frames of the song; `target` is null without a key. */
export interface NoteInSong extends FrameRange {
  takeId: TakeId
  /** Later by so much than in the take's asset. */
  originFrame: number
  note: TargetedNote
  /** Its rung of the key, wherever it is drawn to; null without a key. */
  rungCents: number | null
  /** What the singer decided for it. */
  own: NoteEdit | null
  /** Where it sounds: on its rung, moved by hand, or where it was sung. */
  drawnToCents: number
  /** Why it is left to what was sung, if it is. */
  left: 'not-tuned' | 'near' | 'by-hand' | 'as-sung' | null
}

/** @param heardOf What was found in a take; of one that was not listened to, null. */
export function notesIn(song: Song, layer: Layer, range: FrameRange, heardOf: (takeId: TakeId) => Heard | null): NoteInSong[] {
  return playedIn(song, layer, range).flatMap(({ take, originFrame, startFrame, endFrame, asSung }) => {
    const heard = take.heard ?? heardOf(take.id)
    if (!heard) return []
    const settings = asSung || take.bounceOf?.tune ? null : layer.tune
    return notesOfTake(song, layer, take, heard)
      .map(({ note, own: changed, rungCents }): NoteInSong => {
        const own = asSung ? null : changed
        const left = whyLeft(note, own, settings)
        return {
          takeId: take.id,
          originFrame,
          startFrame: originFrame + Math.round(note.startSeconds * SAMPLE_RATE_HZ),
          endFrame: originFrame + Math.round(note.endSeconds * SAMPLE_RATE_HZ),
          note,
          rungCents,
          own,
          drawnToCents: left === null ? note.targetCents! : left === 'by-hand' ? note.cents + own!.shiftCents : note.cents,
          left,
        }
      })
      .filter(note => note.startFrame < endFrame && note.endFrame > startFrame)
  })
}

function whyLeft(note: TargetedNote, own: NoteEdit | null, settings: TuneSettings | null): NoteInSong['left'] {
  if (own && (own.rungCents === null || !settings)) return own.shiftCents === 0 ? 'as-sung' : 'by-hand'
  if (!settings || note.targetCents === null) return 'not-tuned'
  return isMoved(note, settings) ? null : 'near'
}

export interface MendInSong extends FrameRange {
  takeId: TakeId
  mend: Mend
  isOff: boolean
  isOwn: boolean
}

export function mendsIn(song: Song, layer: Layer, range: FrameRange): MendInSong[] {
  return playedIn(song, layer, range)
    .filter(({ asSung }) => !asSung)
    .flatMap(({ take, originFrame, startFrame, endFrame }) =>
      allMendsOf(song, layer, take)
        .map(({ mend, isOff, isOwn }) => ({
          takeId: take.id,
          mend,
          isOff,
          isOwn,
          startFrame: originFrame + mend.startFrame,
          endFrame: originFrame + mend.endFrame,
        }))
        .filter(mend => mend.startFrame < endFrame && mend.endFrame > startFrame),
    )
}

/** What is picked in a range, each cut to it. */
function playedIn(song: Song, layer: Layer, range: FrameRange) {
  return currentComp(layer)
    .picks.filter(pick => overlapFrames(pick, range) > 0)
    .map(pick => {
      const take = requireTake(song, pick.takeId)
      return {
        take,
        asSung: pick.asSung,
        originFrame: take.originFrame + pick.nudgeFrames,
        startFrame: Math.max(range.startFrame, pick.startFrame),
        endFrame: Math.min(range.endFrame, pick.endFrame),
      }
    })
}
