/** Prints in memory, for commands that render a song file. */
import type { Planar } from '../src/core/audio/frames'
import { CHUNK_FRAMES, cutIntoChunks } from '../src/core/mix/chunk-window'
import { keyOfJob, type PrintTable } from '../src/core/prints/jobs'
import { makePrint, type PrintSource } from '../src/core/prints/make-print'
import { planPrints } from '../src/core/prints/plan-prints'
import type { AssetId, Song } from '../src/core/song/schema'
import { trackPitch } from '../src/core/voice/pitch'

export type Loaded = Map<AssetId, { frames: number; chunks: Planar[] }>

/** Makes all that a song needs and puts it among the loaded sounds. */
export async function makePrints(song: Song, loaded: Loaded): Promise<PrintTable> {
  const prints = new Map<string, AssetId>()
  const source = sourceOf(loaded)
  for (const [i, job] of planPrints(song).entries()) {
    const planes = await makePrint(job, source)
    const assetId = `print-${i}` as AssetId
    loaded.set(assetId, { frames: planes[0].length, chunks: [...cutIntoChunks(planes)] })
    prints.set(keyOfJob(job), assetId)
  }
  return prints
}

function sourceOf(loaded: Loaded): PrintSource {
  const read = (assetId: AssetId, startFrame: number, endFrame: number): Planar => {
    const { chunks } = loaded.get(assetId)!
    return chunks[0].map((_, c) => {
      const plane = new Float32Array(endFrame - startFrame)
      for (let i = 0; i < plane.length; i++) {
        const frame = startFrame + i
        plane[i] = chunks[Math.floor(frame / CHUNK_FRAMES)]?.[c][frame % CHUNK_FRAMES] ?? 0
      }
      return plane
    })
  }
  return {
    read: (assetId, startFrame, endFrame) => Promise.resolve(read(assetId, startFrame, endFrame)),
    pitchOf: assetId => Promise.resolve(trackPitch(read(assetId, 0, loaded.get(assetId)!.frames)[0])),
  }
}
