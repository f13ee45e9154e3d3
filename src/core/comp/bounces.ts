/** Bounces: takes made of a comp, and whether they are still what it plays. */
import { produce } from 'immer'
import type { TakeEdits } from '../song/edit-schema'
import { hasEdits } from '../song/takes'
import type { AssetId, Comp, Layer, LayerId, Pick, Song, Take, TakeId } from '../song/schema'
import { currentComp, requireLayer, type FrameRange } from '../song/select'
import { makeTake, nextPass } from '../song/takes'
import { soundOfPick } from './picks'

/** Whether a comp has changed since the bounce was made from it. A bounce whose comp was removed does not go stale. */
export function isBounceStale(song: Song, take: Take): boolean {
  if (!take.bounceOf) return false
  const { compId, picks, edits, tidy, tune } = take.bounceOf
  const layer = song.layers.find(({ comps }) => comps.some(({ id }: Comp) => id === compId))
  const comp = layer?.comps.find(({ id }) => id === compId)
  if (!layer || !comp) return false
  const now = [comp.picks.map(placedSound), editsPlayed(song, comp.picks), layer.tidy, layer.tune]
  return JSON.stringify(now) !== JSON.stringify([picks.map(placedSound), edits, tidy, tune])
}

/** What lies over the takes that picks play, in the order of the song's takes. */
export function editsPlayed(song: Song, picks: readonly Pick[]): { takeId: TakeId; edits: TakeEdits }[] {
  const played = new Set(picks.filter(pick => !pick.asSung).map(pick => pick.takeId))
  return song.takes.filter(take => played.has(take.id) && hasEdits(take)).map(({ id, edits }) => ({ takeId: id, edits }))
}

/** What a pick sounds like where it lies, its seam's crossfade taken in. */
function placedSound(pick: Pick): unknown[] {
  return [...soundOfPick(pick), pick.startFrame, pick.endFrame, pick.seam?.frames, pick.seam?.alike]
}

/** Command: a bounce lies among the layer's takes; a refreshed one takes the place of the last, and what plays that plays the new sound. */
export function addBounce(
  song: Song,
  {
    layerId,
    replaces,
    takeId,
    assetId,
    extent,
    picks,
    edits,
    tidy,
    tune,
    bouncedAt,
  }: {
    layerId: LayerId
    replaces: TakeId | null
    takeId: TakeId
    assetId: AssetId
    extent: FrameRange
    picks: readonly Pick[]
    edits: ReturnType<typeof editsPlayed>
    tidy: Layer['tidy']
    tune: Layer['tune']
    bouncedAt: string
  },
): Song {
  const layer = requireLayer(song, layerId)
  const comp = currentComp(layer)
  return produce(song, draft => {
    const place = {
      assetId,
      originFrame: extent.startFrame,
      startFrame: extent.startFrame,
      endFrame: extent.endFrame,
      recordedAt: bouncedAt,
      bounceOf: { compId: comp.id, picks: [...picks], edits, tidy, tune },
    }
    const old = draft.takes.find(take => take.id === replaces)
    if (old) Object.assign(old, place)
    else draft.takes.push(makeTake({ id: takeId, layerId, name: `${comp.name} as one`, pass: nextPass(song, layerId), ...place }))
  })
}
