/** Which takes are on the bench. */
import { usesElsewhere, type Use } from '../../../core/comp/picks'
import type { Stretch } from '../../../core/comp/stretches'
import type { Layer, LayerId, Pick, Song, Take, TakeId } from '../../../core/song/schema'
import { covers, currentComp, overlapFrames, placedLines, requireLayer, requireTake, type FrameRange } from '../../../core/song/select'
import type { Row } from './bench-store'

/** Takes of a layer that hold a stretch, or any whole line of it; then what it plays there of other layers' takes. */
function rowsOfLayer(song: Song, layer: Layer, stretch: Stretch): Row[] {
  const lines = placedLines(song).filter(placed => stretch.lineIds.includes(placed.line.id))
  const holds = (take: FrameRange) => covers(take, stretch) || lines.some(line => covers(take, line) && overlapFrames(take, stretch) > 0)
  const own = song.takes.filter(take => take.layerId === layer.id && !take.binned && holds(take))
  const lent = currentComp(layer)
    .picks.filter(pick => overlapFrames(pick, stretch) > 0 && !own.some(take => take.id === pick.takeId))
    .map(pick => requireTake(song, pick.takeId))
  return [...own, ...new Set(lent)].map(take => ({ layerId: layer.id, takeId: take.id }))
}

/** The rows of the bench in order. */
export function rowsOf(song: Song, layer: Layer, stretch: Stretch, { freeOnly, sideBySide }: { freeOnly: boolean; sideBySide: boolean }): Row[] {
  if (freeOnly) {
    const played = rowsOfLayer(song, layer, stretch).filter(row => pickedTakes(song, layer.id, stretch).includes(row.takeId))
    const free = song.takes.filter(
      take => !take.binned && covers(take, stretch) && usesOf(song, layer.id, take.id, stretch).length === 0 && !played.some(row => row.takeId === take.id),
    )
    return [...played, ...free.map(take => ({ layerId: layer.id, takeId: take.id }))]
  }
  const layers = sideBySide ? song.layers.filter(entry => entry.role === layer.role) : [layer]
  return layers.flatMap(entry => rowsOfLayer(song, entry, stretch))
}

/** Where other layers play this take's sound in a stretch. */
export function usesOf(song: Song, layerId: LayerId, takeId: TakeId, { startFrame, endFrame }: FrameRange): Use[] {
  return usesElsewhere(song, { takeId, layerId, startFrame, endFrame })
}

/** What a layer plays most of a stretch with. */
export function pickedIn(song: Song, layerId: LayerId, stretch: FrameRange): { pick: Pick; take: Take } | null {
  const most = [...currentComp(requireLayer(song, layerId)).picks].sort((a, b) => overlapFrames(b, stretch) - overlapFrames(a, stretch))[0]
  return most && overlapFrames(most, stretch) > 0.3 * (stretch.endFrame - stretch.startFrame) ? { pick: most, take: requireTake(song, most.takeId) } : null
}

function pickedTakes(song: Song, layerId: LayerId, stretch: FrameRange): TakeId[] {
  return currentComp(requireLayer(song, layerId))
    .picks.filter(pick => overlapFrames(pick, stretch) > 0)
    .map(pick => pick.takeId)
}

export const rowKey = (row: Row) => `${row.layerId}/${row.takeId}`
