/** Gives every take outside the bin a layer: a take of a removed layer would be seen in no room. */
import type { SpaceId } from './mix-schema'
import type { Song, Take } from './schema'

/** Takes that are not in the bin and whose layer is gone. */
export function homelessTakes(song: Song): Take[] {
  const layerIds = new Set(song.layers.map(layer => layer.id))
  return song.takes.filter(take => !take.binned && !layerIds.has(take.layerId))
}

/**
 * The song with the removed layers that its takes belong to, copied from an earlier state: at their old places, with those picks whose takes still
 * exist and those ways into spaces that are still there.
 */
export function houseTakes(song: Song, earlier: Song): Song {
  const wanted = new Set(homelessTakes(song).map(take => take.layerId))
  if (wanted.size === 0) return song
  const takeIds = new Set(song.takes.map(take => take.id))
  const spaceIds = new Set(song.spaces.map(space => space.id))
  const isThere = ({ spaceId }: { spaceId: SpaceId }) => spaceIds.has(spaceId)
  const layers = [...song.layers]
  earlier.layers.forEach((layer, place) => {
    if (!wanted.has(layer.id)) return
    const comps = layer.comps.map(comp => ({ ...comp, picks: comp.picks.filter(pick => takeIds.has(pick.takeId)) }))
    layers.splice(place, 0, { ...layer, comps, sends: layer.sends.filter(isThere), throws: layer.throws.filter(isThere) })
  })
  return { ...song, layers }
}
