/** Commands on what is kept for later: stretches put aside, and lines to be sung again. */
import { produce } from 'immer'
import type { LayerId, LineId, Song, SpareId, TakeId } from '../song/schema'
import { overlapFrames, requireLayer, requireTake, type FrameRange } from '../song/select'
import type { Spare } from '../song/schema'

/** Command: a stretch of a take is put aside with a note. */
export function putAside(song: Song, { takeId, note, makeId, ...range }: { takeId: TakeId; note: string; makeId: () => string } & FrameRange): Song {
  requireTake(song, takeId)
  return produce(song, draft => {
    draft.spares.push({ id: makeId() as SpareId, takeId, startFrame: range.startFrame, endFrame: range.endFrame, note: note.trim().slice(0, 200) })
  })
}

/** Command: it is not put aside any longer. */
export function letGo(song: Song, { spareId }: { spareId: SpareId }): Song {
  return produce(song, draft => {
    draft.spares = draft.spares.filter(spare => spare.id !== spareId)
  })
}

/** What is put aside of a range, whichever layer it was sung on. */
export function sparesOver(song: Song, range: FrameRange): Spare[] {
  return song.spares.filter(spare => overlapFrames(spare, range) > 0 && !requireTake(song, spare.takeId).binned)
}

/** Command: no take gets this line right; null takes that back. */
export function markSingAgain(song: Song, { layerId, lineId, note }: { layerId: LayerId; lineId: LineId; note: string | null }): Song {
  return produce(song, draft => {
    const layer = requireLayer(draft, layerId)
    layer.singAgain = layer.singAgain.filter(mark => mark.lineId !== lineId)
    if (note !== null) layer.singAgain.push({ lineId, note: note.trim().slice(0, 200) })
  })
}
