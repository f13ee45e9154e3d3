/** A comp as one sound: what its picks play, dry and at their own gains, before anything of the mix. */
import { BLOCK_FRAMES, type Mono } from '../audio/frames'
import { chunksNeeded, ChunkWindow, CHUNK_FRAMES } from './chunk-window'
import { spansOfPicks, type Played } from './pick-spans'
import type { AssetStore } from './render-offline'
import { addSpansInto, packSpans } from './spans'
import type { PrintTable } from '../prints/jobs'
import type { Song } from '../song/schema'
import type { FrameRange } from '../song/select'

/** From the comp's first sound to its last; null for an empty comp. */
export function extentOfComp(song: Song, played: Played): FrameRange | null {
  const spans = spansOfPicks(played, song)
  return spans.length === 0 ? null : { startFrame: spans[0].startFrame, endFrame: spans[spans.length - 1].endFrame }
}

/** Chunks of CHUNK_FRAMES in order, the last one shorter; frame 0 is the extent's start. */
export async function* bounceComp(song: Song, played: Played, { store, prints }: { store: AssetStore; prints: PrintTable }): AsyncGenerator<Mono> {
  const spans = spansOfPicks(played, song, prints)
  const extent = extentOfComp(song, played)
  if (!extent) return
  const packed = packSpans(spans)
  const scratch = new Float32Array(BLOCK_FRAMES)
  for (let from = extent.startFrame; from < extent.endFrame; from += CHUNK_FRAMES) {
    const frames = Math.min(CHUNK_FRAMES, extent.endFrame - from)
    const window = new ChunkWindow()
    for (const [assetId, indices] of chunksNeeded(spans, from, from + frames)) {
      const length = await store.framesOf(assetId)
      const within = [...indices].filter(index => index * CHUNK_FRAMES < length)
      const chunks = await store.readChunks(assetId, within)
      within.forEach((index, i) => window.put(assetId, length, index, chunks[i]))
    }
    const sound = new Float32Array(frames)
    for (let at = 0; at < frames; at += BLOCK_FRAMES)
      addSpansInto([sound.subarray(at)], scratch, packed, window, from + at, 0, Math.min(BLOCK_FRAMES, frames - at))
    yield sound
  }
}
