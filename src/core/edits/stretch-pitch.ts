/** The pitch of a stretch of the song: a note laid over the take that is picked there. */
import { pickAt } from '../comp/picks'
import type { EditId, NoteEdit } from '../song/edit-schema'
import type { LayerId, Pick, Song, Take } from '../song/schema'
import { overlapFrames, requireTake, type FrameRange } from '../song/select'
import { removeEdits, setNoteEdit } from './commands'
import { inAsset } from './in-asset'

function notesIn({ edits }: Take, range: FrameRange): NoteEdit[] {
  return edits.notes.filter(note => overlapFrames(note, range) > 0)
}

/** By how many cents most of what is moved in a stretch is higher; 0 where nothing is. */
export function pitchInStretch(song: Song, pick: Pick, stretch: FrameRange): number {
  const take = requireTake(song, pick.takeId)
  const range = inAsset(pick, take, stretch)
  if (!range) return 0
  const [most] = notesIn(take, range).sort((a, b) => overlapFrames(b, range) - overlapFrames(a, range))
  return most?.shiftCents ?? 0
}

/** Command: the pick in the middle of a stretch sounds so much higher in it, in the place of what was moved there; 0: as it was sung. */
export function setPitchInStretch(
  song: Song,
  { layerId, stretch, shiftCents, makeId }: { layerId: LayerId; stretch: FrameRange; shiftCents: number; makeId: () => string },
): Song {
  const pick = pickAt(song, layerId, Math.round((stretch.startFrame + stretch.endFrame) / 2))
  const take = pick && requireTake(song, pick.takeId)
  const range = pick && take && inAsset(pick, take, stretch)
  if (!take || !range) return song
  const editIds = notesIn(take, range).map(({ id }) => id)
  const cleared = editIds.length > 0 ? removeEdits(song, { takeId: take.id, editIds }) : song
  return shiftCents === 0 ? cleared : setNoteEdit(cleared, { takeId: take.id, edit: { id: makeId() as EditId, ...range, shiftCents, rungCents: null } })
}
