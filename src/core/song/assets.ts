/** The sounds that a song is made of. */
import type { AssetId, Song } from './schema'

/** Every asset a song needs, the beat first; takes in the bin come along. */
export function assetsOfSong(song: Song): AssetId[] {
  return [...new Set([song.beat.assetId, ...song.beat.treatments.flatMap(({ assetId }) => assetId ?? []), ...song.takes.map(take => take.assetId)])]
}
