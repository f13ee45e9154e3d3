/** Layers for takes that have none, so that nothing sung is out of sight. */
import { homelessTakes } from '../song/house-takes'
import type { Layer, Song } from '../song/schema'
import { makeLayer } from './commands'

/** The song with one new layer, a spare, for every layer that its takes name and that is not there. The same song if there is none. */
export function makeLayersForTakes(song: Song, makeId: () => string): Song {
  const missing = [...new Set(homelessTakes(song).map(take => take.layerId))]
  if (missing.length === 0) return song
  const found = missing.map((id, i): Layer => ({
    ...makeLayer(song, { name: i === 0 ? 'Found takes' : `Found takes ${i + 1}`, role: 'spare', pan: 0, makeId }),
    id,
  }))
  return { ...song, layers: [...song.layers, ...found] }
}
