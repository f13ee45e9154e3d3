/** The click as a sound that lies in no storage: made where it is read. */
import { addClickInto } from '../beat/click'
import { CHUNK_FRAMES } from '../mix/chunk-window'
import type { AssetStore } from '../mix/render-offline'
import type { AssetId, Song } from '../song/schema'

export const CLICK_ASSET = 'the-click' as AssetId

/** As loud as a beat is; beat one by as much louder as in the headphones. */
const CLICK_GAIN = 0.5
const ACCENT_GAIN = 1.4

/** The store with the click of a song in it, as long as its beat. */
export function withClick(store: AssetStore, { beat }: Song): AssetStore {
  return {
    framesOf: assetId => (assetId === CLICK_ASSET ? Promise.resolve(beat.frames) : store.framesOf(assetId)),
    readChunks: (assetId, indices) => (assetId === CLICK_ASSET ? Promise.resolve(indices.map(chunk)) : store.readChunks(assetId, indices)),
  }

  function chunk(index: number) {
    const startFrame = index * CHUNK_FRAMES
    const planes = [0, 1].map(() => new Float32Array(Math.max(0, Math.min(CHUNK_FRAMES, beat.frames - startFrame))))
    addClickInto(planes[0], planes[1], beat.grid, startFrame, CLICK_GAIN, ACCENT_GAIN)
    return planes
  }
}
