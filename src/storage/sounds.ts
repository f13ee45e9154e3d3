/** Stored sound: written chunk by chunk, read chunk by chunk, dropped whole. */
import Dexie from 'dexie'
import type { Mono, Planar } from '../core/audio/frames'
import type { PeakLevel, Peaks } from '../core/audio/peaks'
import { EarMix } from '../core/beat/ear-mix'
import { AssetReader, type AssetFacts } from '../core/files/asset'
import { CHUNK_FRAMES } from '../core/mix/chunk-window'
import type { AssetStore } from '../core/mix/render-offline'
import type { AssetId } from '../core/song/schema'
import { database, type AssetRow } from './database'

/** Chunks in a pack: six seconds. */
const PACK_CHUNKS = 24
const READ_CHUNKS = 16
/** Packs, or as many loose chunks as are read at once, that may be on their way from the disk. */
const READ_AHEAD = 3
const BYTES_PER_SAMPLE = Float32Array.BYTES_PER_ELEMENT
/** Decoded frames that may wait in memory: storing them while the decoder still works would slow the decoder down. */
const MOST_WAITING_BYTES = 64 << 20

/** Writes one asset from start to end. Until `finish` it is nothing but stored sound, which `discardAsset` (or the next start's sweep) removes. */
export class AssetWriter {
  private stored = 0
  private pending: Planar[] = []
  private writing: Promise<unknown> = Promise.resolve()

  private constructor(
    private readonly assetId: AssetId,
    private readonly channels: number,
    private readonly reader: AssetReader,
    private readonly mostWaiting: number,
    private readonly store: (assetId: AssetId, channels: number, first: number, chunks: Planar[]) => Promise<unknown>,
  ) {}

  /** For sound that is there already. */
  static async create(assetId: AssetId, channels: number): Promise<AssetWriter> {
    return new AssetWriter(
      assetId,
      channels,
      await AssetReader.create(channels),
      Math.floor(MOST_WAITING_BYTES / (BYTES_PER_SAMPLE * channels * CHUNK_FRAMES)),
      storePack,
    )
  }

  /** For sound that is being sung: can be flushed after any chunk. */
  static async createForCapture(assetId: AssetId, channels: number): Promise<AssetWriter> {
    return new AssetWriter(assetId, channels, await AssetReader.create(channels), PACK_CHUNKS, storeChunks)
  }

  /** Every chunk but the last must hold CHUNK_FRAMES frames. */
  async push(planes: Planar): Promise<void> {
    this.reader.push(planes)
    this.pending.push(planes)
    if (this.pending.length >= this.mostWaiting) await this.beginBatch()
  }

  /** As `AssetReader.coarsestPeaks`. */
  coarsestPeaks(fromBin: number): PeakLevel {
    return this.reader.coarsestPeaks(fromBin)
  }

  /** Makes everything pushed so far durable. While a sound goes on, for captures only: a pack is stored once. */
  async flush(): Promise<void> {
    while (this.pending.length > 0) await this.beginBatch()
    await this.writing
  }

  /** One batch is on its way to the disk while the next is made ready. */
  private async beginBatch(): Promise<void> {
    await this.writing
    const batch = this.pending.splice(0, PACK_CHUNKS)
    this.writing = this.store(this.assetId, this.channels, this.stored, batch)
    this.stored += batch.length
  }

  async finish(): Promise<AssetFacts> {
    await this.flush()
    const facts = this.reader.finish()
    await keepFacts(this.assetId, facts)
    return facts
  }
}

function storeChunks(assetId: AssetId, _channels: number, first: number, chunks: Planar[]): Promise<unknown> {
  return database.chunks.bulkPut(chunks.map((planes, i) => ({ assetId, index: first + i, planes })))
}

function storePack(assetId: AssetId, channels: number, first: number, chunks: Planar[]): Promise<unknown> {
  return database.packs.put({ assetId, index: first / PACK_CHUNKS, channels, sound: new Blob(chunks.flat()) })
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

/** All chunks in order, each at its place, for reading only: they may share memory. Silence stands for those that are not there. */
export async function* chunksOf(assetId: AssetId): AsyncGenerator<Planar> {
  const last = await database.chunks.where('[assetId+index]').between([assetId, Dexie.minKey], [assetId, Dexie.maxKey]).last()
  const lastPack = await database.packs.where('[assetId+index]').between([assetId, Dexie.minKey], [assetId, Dexie.maxKey]).last()
  const batches = lastPack ? lastPack.index + 1 : last ? Math.floor(last.index / READ_CHUNKS) + 1 : 0
  const channels = lastPack?.channels ?? last?.planes.length ?? 1
  const read = (index: number) =>
    lastPack ? readPack(assetId, index, channels) : readRows(assetId, index, Math.min(READ_CHUNKS, last!.index + 1 - index * READ_CHUNKS), channels)
  // The next are on their way while these are worked on.
  const coming = Array.from({ length: Math.min(READ_AHEAD, batches) }, (_, index) => read(index))
  for (let index = 0; index < batches; index++) {
    const chunks = await coming.shift()!
    if (index + READ_AHEAD < batches) coming.push(read(index + READ_AHEAD))
    yield* chunks
  }
}

function silentChunk(channels: number): Planar {
  return Array.from({ length: channels }, () => new Float32Array(CHUNK_FRAMES))
}

async function readPack(assetId: AssetId, index: number, channels: number): Promise<Planar[]> {
  const pack = await database.packs.get([assetId, index])
  return pack ? chunksIn(pack.channels, await pack.sound.arrayBuffer()) : Array.from({ length: PACK_CHUNKS }, () => silentChunk(channels))
}

async function readRows(assetId: AssetId, batch: number, count: number, channels: number): Promise<Planar[]> {
  const from = batch * READ_CHUNKS
  const rows = new Map(
    (
      await database.chunks
        .where('[assetId+index]')
        .between([assetId, from], [assetId, from + READ_CHUNKS])
        .toArray()
    ).map(row => [row.index, row.planes]),
  )
  return Array.from({ length: count }, (_, i) => rows.get(from + i) ?? silentChunk(channels))
}

function chunksIn(channels: number, bytes: ArrayBuffer): Planar[] {
  const frames = bytes.byteLength / (BYTES_PER_SAMPLE * channels)
  return Array.from({ length: Math.ceil(frames / CHUNK_FRAMES) }, (_, i) => {
    const length = Math.min(CHUNK_FRAMES, frames - i * CHUNK_FRAMES)
    return Array.from({ length: channels }, (_, c) => new Float32Array(bytes, BYTES_PER_SAMPLE * (i * channels * CHUNK_FRAMES + c * length), length))
  })
}

/** A whole sound in memory as ears take it; for analyses only. */
export async function loadForEars(assetId: AssetId): Promise<Mono> {
  const { frames } = await requireAsset(assetId)
  const load = async (keep: (planes: Planar) => Planar) => {
    const mix = new EarMix(frames)
    for await (const planes of chunksOf(assetId)) mix.push(keep(planes))
    return mix
  }
  const mix = await load(planes => planes)
  return mix.sidesCancel ? (await load(planes => [planes[0]!])).mono : mix.mono
}

/** Frames of a stored sound, to look at or compare; silence where it does not reach, or is not there. */
export async function readStretch(assetId: AssetId, startFrame: number, endFrame: number): Promise<Planar> {
  const asset = await requireAsset(assetId)
  const planes: Planar = Array.from({ length: asset.channels }, () => new Float32Array(endFrame - startFrame))
  const first = Math.max(0, Math.floor(startFrame / CHUNK_FRAMES))
  const indices = Array.from({ length: Math.max(0, Math.ceil(endFrame / CHUNK_FRAMES) - first) }, (_, i) => first + i)
  const within = indices.filter(index => index * CHUNK_FRAMES < asset.frames)
  const chunks = await makeAssetStore(() => {}).readChunks(assetId, within)
  chunks.forEach((chunk, i) => {
    const at = within[i]! * CHUNK_FRAMES - startFrame
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
  await database.transaction('rw', database.assets, database.peaks, database.chunks, database.packs, async () => {
    await database.assets.delete(assetId)
    await database.peaks.delete(assetId)
    for (const sound of [database.chunks, database.packs])
      await sound.where('[assetId+index]').between([assetId, Dexie.minKey], [assetId, Dexie.maxKey]).delete()
  })
}

/** A stretch of a sound that should be stored and is not; frames of the asset. */
export interface MissingSound {
  assetId: AssetId
  startFrame: number
  endFrame: number
}

/** Sound is asked for that is not stored. Crosses no thread: jobs look with `findMissingSound` before they begin. */
export class MissingSoundError extends Error {
  constructor(readonly missing: MissingSound) {
    super(`sound ${missing.assetId} is not stored from frame ${missing.startFrame} to ${missing.endFrame}`)
    this.name = 'MissingSoundError'
  }
}

/** What is missing of stored sounds: of each the stretches of which no chunk is there, or all of it. Reads keys only. */
export async function findMissingSound(assetIds: readonly AssetId[]): Promise<MissingSound[]> {
  const missing: MissingSound[] = []
  for (const assetId of new Set(assetIds)) {
    const asset = await database.assets.get(assetId)
    if (!asset) {
      missing.push({ assetId, startFrame: 0, endFrame: Infinity })
      continue
    }
    const whole: [[AssetId, unknown], [AssetId, unknown]] = [
      [assetId, Dexie.minKey],
      [assetId, Dexie.maxKey],
    ]
    const packs = new Set(
      (
        await database.packs
          .where('[assetId+index]')
          .between(...whole)
          .primaryKeys()
      ).map(([, index]) => index),
    )
    const loose = new Set(
      (
        await database.chunks
          .where('[assetId+index]')
          .between(...whole)
          .primaryKeys()
      ).map(([, index]) => index),
    )
    for (let index = 0; index * CHUNK_FRAMES < asset.frames; index++) {
      if (loose.has(index) || packs.has(Math.floor(index / PACK_CHUNKS))) continue
      const startFrame = index * CHUNK_FRAMES
      const endFrame = Math.min(asset.frames, startFrame + CHUNK_FRAMES)
      const last = missing.at(-1)
      if (last?.assetId === assetId && last.endFrame === startFrame) last.endFrame = endFrame
      else missing.push({ assetId, startFrame, endFrame })
    }
  }
  return missing
}

/**
 * The store as the renderer wants it. Lengths are remembered: assets never change.
 * @param onMissing Told of sound that is not there: it throws, or silence of that length stands for it.
 */
export function makeAssetStore(onMissing: (missing: MissingSound) => void = refuseMissing): AssetStore {
  const lengths = new Map<AssetId, number>()
  return {
    async framesOf(assetId) {
      const read = lengths.get(assetId)
      if (read !== undefined) return read
      const asset = await database.assets.get(assetId)
      if (!asset) {
        onMissing({ assetId, startFrame: 0, endFrame: Infinity })
        // Not remembered: a print may be made again.
        return 0
      }
      lengths.set(assetId, asset.frames)
      return asset.frames
    },
    async readChunks(assetId, indices) {
      const packs = new Map<number, Promise<(Planar | undefined)[] | null>>()
      for (const index of indices) {
        const pack = Math.floor(index / PACK_CHUNKS)
        if (!packs.has(pack)) packs.set(pack, readFromPack(assetId, pack, indices))
      }
      const found = new Map(await Promise.all([...packs].map(async ([pack, chunks]) => [pack, await chunks] as const)))
      const loose = indices.filter(index => !found.get(Math.floor(index / PACK_CHUNKS)))
      const rows = new Map((await database.chunks.bulkGet(loose.map(index => [assetId, index] as [AssetId, number]))).map((row, i) => [loose[i], row]))
      return indices.map(index => {
        const planes = found.get(Math.floor(index / PACK_CHUNKS))?.[index % PACK_CHUNKS] ?? rows.get(index)?.planes
        if (planes) return planes
        onMissing({ assetId, startFrame: index * CHUNK_FRAMES, endFrame: (index + 1) * CHUNK_FRAMES })
        return [new Float32Array(CHUNK_FRAMES)]
      })
    },
  }
}

function refuseMissing(missing: MissingSound): never {
  throw new MissingSoundError(missing)
}

/** Those of the wanted chunks that lie in a pack, each at its place in it and in memory of its own; null if there is no such pack. */
async function readFromPack(assetId: AssetId, pack: number, wanted: readonly number[]): Promise<(Planar | undefined)[] | null> {
  const row = await database.packs.get([assetId, pack])
  if (!row) return null
  const places = wanted.map(index => index - pack * PACK_CHUNKS).filter(place => place >= 0 && place < PACK_CHUNKS)
  const from = Math.min(...places)
  const chunkBytes = BYTES_PER_SAMPLE * row.channels * CHUNK_FRAMES
  const chunks = chunksIn(row.channels, await row.sound.slice(from * chunkBytes, (Math.max(...places) + 1) * chunkBytes).arrayBuffer())
  const found: (Planar | undefined)[] = []
  for (const place of places) found[place] = chunks[place - from]?.map(plane => plane.slice())
  return found
}
