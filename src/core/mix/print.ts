/** A comp as one sound: what its picks play, dry and at their own gains, before anything of the mix. */
import { produce } from 'immer'
import { BLOCK_FRAMES, type Mono } from '../audio/frames'
import { soundOfPick } from '../comp/picks'
import { chunksNeeded, ChunkWindow, CHUNK_FRAMES } from './chunk-window'
import { spansOfPicks } from './pick-spans'
import type { AssetStore } from './render-offline'
import { addSpansInto, packSpans } from './spans'
import type { AssetId, Comp, LayerId, Pick, Song, Take, TakeId } from '../song/schema'
import { currentComp, requireLayer, type FrameRange } from '../song/select'
import { makeTake, nextPass } from '../song/takes'

/** From the comp's first sound to its last; null for an empty comp. */
export function extentOfComp(song: Song, { picks }: { picks: readonly Pick[] }): FrameRange | null {
  const spans = spansOfPicks(picks, song)
  return spans.length === 0 ? null : { startFrame: spans[0].startFrame, endFrame: spans[spans.length - 1].endFrame }
}

/** Chunks of CHUNK_FRAMES in order, the last one shorter; frame 0 is the extent's start. */
export async function* printComp(song: Song, { picks }: { picks: readonly Pick[] }, store: AssetStore): AsyncGenerator<Mono> {
  const spans = spansOfPicks(picks, song)
  const extent = extentOfComp(song, { picks })
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

/** Whether a comp has changed since the print was made from it. A print whose comp was removed does not go stale. */
export function isPrintStale(song: Song, take: Take): boolean {
  if (!take.printOf) return false
  const { compId, picks } = take.printOf
  const comp = song.layers.flatMap(layer => layer.comps).find((entry: Comp) => entry.id === compId)
  return comp !== undefined && JSON.stringify(comp.picks.map(placedSound)) !== JSON.stringify(picks.map(placedSound))
}

/** What a pick sounds like where it lies, its seam's crossfade taken in. */
function placedSound(pick: Pick): unknown[] {
  return [...soundOfPick(pick), pick.startFrame, pick.endFrame, pick.seam?.frames, pick.seam?.alike]
}

/** Command: a print lies among the layer's takes; a refreshed one takes the place of the last, and what plays that plays the new sound. */
export function addPrint(
  song: Song,
  {
    layerId,
    replaces,
    takeId,
    assetId,
    extent,
    picks,
    printedAt,
  }: { layerId: LayerId; replaces: TakeId | null; takeId: TakeId; assetId: AssetId; extent: FrameRange; picks: readonly Pick[]; printedAt: string },
): Song {
  const layer = requireLayer(song, layerId)
  const comp = currentComp(layer)
  return produce(song, draft => {
    const place = {
      assetId,
      originFrame: extent.startFrame,
      startFrame: extent.startFrame,
      endFrame: extent.endFrame,
      recordedAt: printedAt,
      printOf: { compId: comp.id, picks: [...picks] },
    }
    const old = draft.takes.find(take => take.id === replaces)
    if (old) Object.assign(old, place)
    else draft.takes.push(makeTake({ id: takeId, layerId, name: `${comp.name} as one`, pass: nextPass(song, layerId), ...place }))
  })
}
