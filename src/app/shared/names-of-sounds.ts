/** What stored sounds are called. */
import type { AssetId, Song } from '../../core/song/schema'
import { requireLayer } from '../../core/song/select'

/** What sounds are called: their takes, or the beat. */
export function namesOfSounds(song: Song, assetIds: readonly AssetId[]): string[] {
  return [...new Set(assetIds)].map(assetId => {
    const take = song.takes.find(entry => entry.assetId === assetId)
    if (!take) return assetId === song.beat.assetId ? 'the beat' : 'a colour of the beat'
    const layer = song.layers.some(entry => entry.id === take.layerId) ? requireLayer(song, take.layerId).name : 'the bin'
    return `${take.name} of ${layer}`
  })
}
