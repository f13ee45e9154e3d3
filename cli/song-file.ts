/** A song file on the command line: read whole, with all that it needs to sound. */
import type { Planar } from '../src/core/audio/frames'
import { withClick } from '../src/core/deliver/click-sound'
import { readSongFile } from '../src/core/files/song-file'
import type { AssetStore } from '../src/core/mix/render-offline'
import type { PrintTable } from '../src/core/prints/jobs'
import type { Song } from '../src/core/song/schema'
import { fail } from './failure'
import { withFile } from './file-source'
import { makePrints, type Loaded } from './prints'

export interface LoadedSong {
  song: Song
  loaded: Loaded
  store: AssetStore
}

/** Ends with an error for what is no song file. */
export async function loadSongFile(file: string): Promise<LoadedSong> {
  return withFile(file, async source => {
    const read = await readSongFile(source)
    if (read.kind === 'refused') fail(`${file} is not a song file that can be used: ${read.reason}${read.detail ? ` (${read.detail})` : ''}`)
    const loaded: Loaded = new Map()
    for (const asset of read.assets) {
      const chunks: Planar[] = []
      for await (const planes of read.chunksOf(asset)) chunks.push(planes)
      loaded.set(asset.id, { frames: asset.frames, chunks })
    }
    const store: AssetStore = {
      framesOf: assetId => Promise.resolve(loaded.get(assetId)!.frames),
      readChunks: (assetId, indices) => Promise.resolve(indices.map(index => loaded.get(assetId)!.chunks[index])),
    }
    return { song: read.song, loaded, store: withClick(store, read.song) }
  }).catch((error: Error) => fail(`${file} cannot be read: ${error.message}`))
}

/** The song with what was found in its takes, and its prints among the loaded sounds. */
export function readyToSound({ song, loaded }: LoadedSong, wanted: Song = song): Promise<{ song: Song; prints: PrintTable }> {
  return makePrints(wanted, loaded)
}
