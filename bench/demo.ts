/** The demo song and its sound, for whatever is measured on a song. */
import { cutIntoChunks } from '../src/core/mix/chunk-window'
import type { AssetStore } from '../src/core/mix/render-offline'
import { makeDemoSong } from '../src/core/rehearsal/demo-song'

export const demo = makeDemoSong()
export const planesOf = new Map(demo.assets.map(asset => [asset.id, asset.planes]))
export const chunksOf = new Map(demo.assets.map(asset => [asset.id, [...cutIntoChunks(asset.planes)]]))
export const store: AssetStore = {
  framesOf: id => Promise.resolve(planesOf.get(id)![0].length),
  readChunks: (id, indices) => Promise.resolve(indices.map(index => chunksOf.get(id)![index])),
}
