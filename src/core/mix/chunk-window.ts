/** A window of PCM chunks held in memory, from which the renderer reads; all other chunks stay in storage. */
import type { Planar } from '../audio/frames'
import type { AssetId } from '../song/schema'

/** Every asset is stored and read in chunks of this length: a quarter of a second. */
export const CHUNK_FRAMES = 12_000

/** Where the renderer's sound comes from. */
export interface SampleSource {
  /**
   * Copies `count` frames of one channel from `startFrame` of an asset. A mono asset gives the same for every channel; frames before
   * and after the asset are silence. False if some of it is not at hand: those frames are zeros.
   */
  read(assetId: AssetId, channel: number, startFrame: number, target: Float32Array, targetOffset: number, count: number): boolean
}

/** Chunks put in and dropped from outside; reading never waits. */
export class ChunkWindow implements SampleSource {
  private readonly assets = new Map<AssetId, { frames: number; chunks: Map<number, Planar> }>()

  /** @param frames Length of the whole asset. */
  put(assetId: AssetId, frames: number, index: number, planes: Planar): void {
    let asset = this.assets.get(assetId)
    if (!asset) this.assets.set(assetId, (asset = { frames, chunks: new Map() }))
    asset.chunks.set(index, planes)
  }

  has(assetId: AssetId, index: number): boolean {
    return this.assets.get(assetId)?.chunks.has(index) ?? false
  }

  drop(assetId: AssetId, index: number): void {
    const asset = this.assets.get(assetId)
    asset?.chunks.delete(index)
    if (asset?.chunks.size === 0) this.assets.delete(assetId)
  }

  read(assetId: AssetId, channel: number, startFrame: number, target: Float32Array, targetOffset: number, count: number): boolean {
    const asset = this.assets.get(assetId)
    if (!asset) {
      target.fill(0, targetOffset, targetOffset + count)
      return false
    }
    let complete = true
    for (let done = 0; done < count;) {
      const frame = startFrame + done
      if (frame < 0 || frame >= asset.frames) {
        const silent = frame < 0 ? Math.min(count - done, -frame) : count - done
        target.fill(0, targetOffset + done, targetOffset + done + silent)
        done += silent
        continue
      }
      const index = Math.floor(frame / CHUNK_FRAMES)
      const within = frame - index * CHUNK_FRAMES
      const length = Math.min(count - done, CHUNK_FRAMES - within, asset.frames - frame)
      const planes = asset.chunks.get(index)
      if (planes) {
        const plane = planes[channel] ?? planes[0]
        for (let i = 0; i < length; i++) target[targetOffset + done + i] = plane[within + i]
      } else {
        target.fill(0, targetOffset + done, targetOffset + done + length)
        complete = false
      }
      done += length
    }
    return complete
  }
}

/** Which chunks of which assets a plan reads between two song frames. */
export function chunksNeeded(
  spans: Iterable<{ assetId: AssetId; originFrame: number; startFrame: number; endFrame: number }>,
  fromFrame: number,
  toFrame: number,
): Map<AssetId, Set<number>> {
  const needed = new Map<AssetId, Set<number>>()
  for (const span of spans) {
    const from = Math.max(fromFrame, span.startFrame)
    const to = Math.min(toFrame, span.endFrame)
    if (to <= from) continue
    let indices = needed.get(span.assetId)
    if (!indices) needed.set(span.assetId, (indices = new Set()))
    for (let index = Math.max(0, Math.floor((from - span.originFrame) / CHUNK_FRAMES)); index * CHUNK_FRAMES < to - span.originFrame; index++)
      indices.add(index)
  }
  return needed
}

/** A whole sound cut into chunks; the last is shorter. */
export function* cutIntoChunks(planes: Planar): Generator<Planar> {
  for (let from = 0; from < planes[0].length; from += CHUNK_FRAMES) yield planes.map(plane => plane.slice(from, from + CHUNK_FRAMES))
}
