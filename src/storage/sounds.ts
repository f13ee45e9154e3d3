/** Stored sound: written chunk by chunk, read chunk by chunk, dropped whole. */
import Dexie from 'dexie'
import type { Planar } from '../core/audio/frames'
import type { Peaks } from '../core/audio/peaks'
import { AssetReader, type AssetFacts } from '../core/files/asset'
import { CHUNK_FRAMES } from '../core/mix/chunk-window'
import type { AssetStore } from '../core/mix/render-offline'
import type { AssetId } from '../core/song/schema'
import { database, type AssetRow } from './database'

/** Chunks gathered into one transaction while importing: six seconds. */
const BATCH_CHUNKS = 24
const READ_CHUNKS = 16

/** Writes one asset from start to end. Until `finish` it is nothing but chunks, which `discard` (or the next start's sweep) removes. */
export class AssetWriter {
  private index = 0
  private pending: { assetId: AssetId; index: number; planes: Planar }[] = []
  private writing: Promise<unknown> = Promise.resolve()

  private constructor(private readonly assetId: AssetId, private readonly reader: AssetReader) {}

  static async create(assetId: AssetId, channels: number): Promise<AssetWriter> {
    return new AssetWriter(assetId, await AssetReader.create(channels))
  }

  /** Every chunk but the last must hold CHUNK_FRAMES frames. */
  async push(planes: Planar): Promise<void> {
    this.reader.push(planes)
    this.pending.push({ assetId: this.assetId, index: this.index++, planes })
    if (this.pending.length >= BATCH_CHUNKS) await this.beginBatch()
  }

  /** Makes everything pushed so far durable. */
  async flush(): Promise<void> {
    await this.beginBatch()
    await this.writing
  }

  /** One batch is on its way to the disk while the next is made ready. */
  private async beginBatch(): Promise<void> {
    await this.writing
    if (this.pending.length > 0) this.writing = database.chunks.bulkPut(this.pending)
    this.pending = []
  }

  async finish(): Promise<AssetFacts> {
    await this.flush()
    const facts = this.reader.finish()
    await keepFacts(this.assetId, facts)
    return facts
  }
}

/** The facts and peaks of an asset whose chunks are stored. */
export async function keepFacts(assetId: AssetId, { peaks, ...facts }: AssetFacts): Promise<void> {
  await database.transaction('rw', database.assets, database.peaks, async () => {
    await database.assets.put({ id: assetId, ...facts })
    await database.peaks.put({ assetId, peaks })
  })
}

/** Reads an asset's stored chunks again for its facts: for a recording whose tab was closed. Null if nothing was stored. */
export async function rereadFacts(assetId: AssetId): Promise<AssetFacts | null> {
  let reader: AssetReader | null = null
  for await (const planes of chunksOf(assetId)) {
    reader ??= await AssetReader.create(planes.length)
    reader.push(planes)
  }
  return reader?.finish() ?? null
}

export async function* chunksOf(assetId: AssetId): AsyncGenerator<Planar> {
  const read = (index: number) => database.chunks.where('[assetId+index]').between([assetId, index], [assetId, index + READ_CHUNKS]).toArray()
  // The next are on their way while these are worked on.
  let next = read(0)
  for (let index = READ_CHUNKS; ; index += READ_CHUNKS) {
    const rows = await next
    const isLast = rows.length < READ_CHUNKS
    if (!isLast) next = read(index)
    for (const row of rows) yield row.planes
    if (isLast) return
  }
}

/** A whole sound in memory; for analyses only. */
export async function loadWhole(assetId: AssetId): Promise<Planar> {
  const asset = await requireAsset(assetId)
  const planes = Array.from({ length: asset.channels }, () => new Float32Array(asset.frames))
  let at = 0
  for await (const chunk of chunksOf(assetId)) {
    chunk.forEach((plane, c) => planes[c]!.set(plane, at))
    at += chunk[0]!.length
  }
  return planes
}

/** Frames of a stored sound; silence where it does not reach. */
export async function readStretch(assetId: AssetId, startFrame: number, endFrame: number): Promise<Planar> {
  const { channels } = await requireAsset(assetId)
  const planes: Planar = Array.from({ length: channels }, () => new Float32Array(endFrame - startFrame))
  const first = Math.max(0, Math.floor(startFrame / CHUNK_FRAMES))
  const indices = Array.from({ length: Math.max(0, Math.ceil(endFrame / CHUNK_FRAMES) - first) }, (_, i) => first + i)
  const chunks = await makeAssetStore().readChunks(assetId, indices)
  chunks.forEach((chunk, i) => {
    const at = indices[i]! * CHUNK_FRAMES - startFrame
    planes.forEach((plane, c) => {
      const source = chunk[c]
      if (source) plane.set(source.subarray(Math.max(0, -at), Math.max(0, Math.min(source.length, plane.length - at))), Math.max(0, at))
    })
  })
  return planes
}

export async function requireAsset(assetId: AssetId): Promise<AssetRow> {
  const asset = await database.assets.get(assetId)
  if (!asset) throw new RangeError(`no sound ${assetId} is stored`)
  return asset
}

export async function readPeaks(assetId: AssetId): Promise<Peaks | null> {
  return (await database.peaks.get(assetId))?.peaks ?? null
}

export async function discardAsset(assetId: AssetId): Promise<void> {
  await database.transaction('rw', database.assets, database.peaks, database.chunks, async () => {
    await database.assets.delete(assetId)
    await database.peaks.delete(assetId)
    await database.chunks.where('[assetId+index]').between([assetId, Dexie.minKey], [assetId, Dexie.maxKey]).delete()
  })
}

/** The store as the renderer wants it. Lengths are remembered: assets never change. */
export function makeAssetStore(): AssetStore {
  const lengths = new Map<AssetId, number>()
  return {
    async framesOf(assetId) {
      const known = lengths.get(assetId)
      if (known !== undefined) return known
      const { frames } = await requireAsset(assetId)
      lengths.set(assetId, frames)
      return frames
    },
    async readChunks(assetId, indices) {
      const rows = await database.chunks.bulkGet(indices.map(index => [assetId, index] as [AssetId, number]))
      // A chunk that is missing is silence of its length: the mix goes on.
      return rows.map(row => row?.planes ?? [new Float32Array(CHUNK_FRAMES)])
    },
  }
}
