/** The song file: one zip with the document and every sound it uses. Described in docs/song-file.md. */
import { strFromU8, strToU8 } from 'fflate'
import { z } from 'zod'
import type { Planar } from '../audio/frames'
import { concatMono, SAMPLE_RATE_HZ } from '../audio/frames'
import { silenceUnsound } from '../audio/unsound'
import { CHUNK_FRAMES } from '../mix/chunk-window'
import { assetsOfSong } from '../song/assets'
import { openSong } from '../song/open'
import type { AssetId, Song } from '../song/schema'
import { AssetIdSchema } from '../song/schema'
import { AssetReader, type AssetFacts } from './asset'
import { bytesOf, type ByteSource } from './byte-source'
import { openSound } from './decode'
import { MOST_PACKED_FRAMES, packFlac } from './pack-flac'
import { bytesPerSample, decodeSamples, encodeSamples, encodeWavHeader, readWavHeader } from './wav'
import { readWhole, readZip, writeZip, type ZipEntry } from './zip'

const SONG_FILE_FORMAT = 'plush-layer-song'
/** 2: sounds of whole numbers may be FLAC; a file without any is one of version 1. */
const SONG_FILE_VERSION = 2

/** What is refused before anything is unpacked. */
const LIMITS = { entries: 4_000, documentBytes: 64 << 20, assetBytes: 2 ** 31, totalBytes: 2 ** 37 }

const AssetEntrySchema = z.strictObject({
  id: AssetIdSchema,
  file: z.string().regex(/^sounds\/[A-Za-z0-9_-]{1,64}\.(wav|flac)$/),
  frames: z
    .number()
    .int()
    .min(1)
    .max(SAMPLE_RATE_HZ * 60 * 60),
  channels: z.number().int().min(1).max(2),
  contentHash: z.string().regex(/^[0-9a-f]{16}$/),
})
const EnvelopeSchema = z.strictObject({
  format: z.literal(SONG_FILE_FORMAT),
  formatVersion: z.number().int().min(1).max(SONG_FILE_VERSION),
  song: z.unknown(),
  assets: z.array(AssetEntrySchema).max(LIMITS.entries),
})
export type AssetEntry = z.infer<typeof AssetEntrySchema>

/** A song as it is handed on: without the song that its mix is held against, which is not the singer's to give. */
function handedOn(song: Song): Song {
  return { ...song, reference: null }
}

/** FLAC holds whole numbers of up to 24 bits. */
function isPacked({ frames, encoding }: Pick<AssetFacts, 'frames' | 'encoding'>): boolean {
  return encoding !== 'float32' && frames <= MOST_PACKED_FRAMES
}

/**
 * Writes a song file piece by piece, sounds of whole numbers as FLAC.
 * @param chunksOf Gives an asset's chunks in order.
 * @param emit Takes the file's bytes in order.
 */
export async function writeSongFile(options: {
  song: Song
  assets: { id: AssetId; facts: Pick<AssetFacts, 'frames' | 'channels' | 'contentHash' | 'encoding'> }[]
  chunksOf: (assetId: AssetId) => AsyncIterable<Planar> | Iterable<Planar>
  emit: (bytes: Uint8Array<ArrayBuffer>) => Promise<void> | void
  onProgress?: (fraction: number) => void
  signal?: AbortSignal
}): Promise<void> {
  const { song, assets, chunksOf, emit, onProgress, signal } = options
  const fileOf = ({ id, facts }: (typeof assets)[number]) => `sounds/${id}.${isPacked(facts) ? 'flac' : 'wav'}`
  const entries: AssetEntry[] = assets.map(asset => {
    const { frames, channels, contentHash } = asset.facts
    return { id: asset.id, file: fileOf(asset), frames, channels, contentHash }
  })
  const formatVersion = assets.some(({ facts }) => isPacked(facts)) ? 2 : 1
  const document = strToU8(JSON.stringify({ format: SONG_FILE_FORMAT, formatVersion, song: handedOn(song), assets: entries }, null, 1))
  const total = assets.reduce((sum, asset) => sum + asset.facts.frames * asset.facts.channels, 0)
  let written = 0
  async function* counted(id: AssetId): AsyncGenerator<Planar> {
    for await (const planes of chunksOf(id)) {
      yield planes
      written += planes[0].length * planes.length
      onProgress?.(written / total)
    }
  }
  async function* soundFile({ id, facts }: (typeof assets)[number]): AsyncGenerator<Uint8Array<ArrayBuffer>> {
    if (isPacked(facts)) return yield await packFlac(counted(id))
    yield encodeWavHeader({ frames: facts.frames, channels: facts.channels, sampleRateHz: SAMPLE_RATE_HZ, encoding: facts.encoding })
    for await (const planes of counted(id)) yield encodeSamples(planes, facts.encoding)
  }
  async function* files() {
    yield { name: 'song.json', bytes: [document] }
    for (const asset of assets) yield { name: fileOf(asset), bytes: soundFile(asset) }
  }
  await writeZip(files(), emit, signal)
}

export type ReadSongFileResult =
  | { kind: 'read'; song: Song; assets: AssetEntry[]; chunksOf: (asset: AssetEntry) => AsyncIterable<Planar> }
  | {
      kind: 'refused'
      reason: 'not-zip' | 'no-document' | 'not-a-song' | 'unsafe-name' | 'too-large' | 'damaged-document' | 'missing-sound' | 'damaged-sound'
      detail: string
    }
  | { kind: 'refused'; reason: 'newer'; detail: string }

const ENTRY_NAME = /^(song\.json|sounds\/[A-Za-z0-9_-]{1,64}\.(wav|flac)|sounds\/)$/

/** Checks everything that can be checked without unpacking the sounds; `chunksOf` then reads one piece by piece. */
export async function readSongFile(source: ByteSource): Promise<ReadSongFileResult> {
  const refuse = (reason: Exclude<ReadSongFileResult, { kind: 'read' }>['reason'], detail = ''): ReadSongFileResult => ({ kind: 'refused', reason, detail })
  const entries = await readZip(source, LIMITS.entries)
  if (entries === 'not-zip') return refuse('not-zip')
  if (entries === 'too-many') return refuse('too-large')
  const files = new Map<string, ZipEntry>()
  for (const entry of entries) {
    if (!ENTRY_NAME.test(entry.name) || files.has(entry.name)) return refuse('unsafe-name', entry.name.slice(0, 80))
    files.set(entry.name, entry)
  }
  const documentEntry = files.get('song.json')
  if (!documentEntry) return refuse('no-document')
  const total = entries.reduce((sum, entry) => sum + entry.bytes, 0)
  const largest = entries.reduce((most, entry) => Math.max(most, entry.bytes), 0)
  if (documentEntry.bytes > LIMITS.documentBytes || largest > LIMITS.assetBytes || total > LIMITS.totalBytes || total > source.size * 1_100)
    return refuse('too-large')
  let json: unknown
  try {
    json = JSON.parse(strFromU8(await readWhole(documentEntry)))
  } catch {
    return refuse('damaged-document')
  }
  const envelope = EnvelopeSchema.safeParse(json)
  if (!envelope.success) {
    const head = z.looseObject({ format: z.literal(SONG_FILE_FORMAT), formatVersion: z.number() }).safeParse(json)
    if (!head.success) return refuse('not-a-song')
    return head.data.formatVersion > SONG_FILE_VERSION ? refuse('newer') : refuse('damaged-document', envelope.error.issues[0].path.join('.'))
  }
  const opened = openSong(envelope.data.song)
  if (opened.kind === 'newer') return refuse('newer')
  if (opened.kind === 'damaged')
    return refuse(
      'damaged-document',
      opened.problems
        .map(problem => `${problem.path}: ${problem.expected}`)
        .join('; ')
        .slice(0, 300),
    )
  const listed = new Map(envelope.data.assets.map(asset => [asset.id, asset]))
  if (listed.size !== envelope.data.assets.length) return refuse('damaged-document', 'assets: unique ids')
  for (const assetId of assetsOfSong(opened.song)) {
    const asset = listed.get(assetId)
    const size = asset && files.get(asset.file)?.bytes
    if (!asset || size === undefined) return refuse('missing-sound', assetId)
    // A header and samples of at most 4 bytes: nothing else belongs in the entry. Of FLAC as few as silence needs.
    const least = asset.file.endsWith('.wav') ? asset.frames * asset.channels * 2 + 44 : LEAST_FLAC_BYTES
    if (size < least || size > asset.frames * asset.channels * 4 + MOST_HEADER_BYTES) return refuse('damaged-sound', asset.file)
  }
  if (listed.get(opened.song.beat.assetId)!.frames !== opened.song.beat.sourceFrames) return refuse('damaged-document', 'beat.sourceFrames')
  return { kind: 'read', song: handedOn(opened.song), assets: envelope.data.assets, chunksOf: asset => chunksOfEntry(files.get(asset.file), asset) }
}

/** Opens a finished file as anyone would, every sound of it. @returns null if all is there; otherwise what is not. */
export async function whatIsWrong(source: ByteSource, onProgress: (fraction: number) => void = () => {}): Promise<string | null> {
  const read = await readSongFile(source)
  if (read.kind === 'refused') return `${read.reason} ${read.detail}`.trim()
  const total = read.assets.reduce((sum, asset) => sum + asset.frames * asset.channels, 0)
  let done = 0
  for (const asset of read.assets) {
    const reader = await AssetReader.create(asset.channels)
    try {
      for await (const planes of read.chunksOf(asset)) {
        reader.push(planes)
        done += planes[0].length * asset.channels
        onProgress(done / total)
      }
    } catch (error) {
      if (error instanceof DamagedSoundError) return asset.file
      throw error
    }
    if (reader.finish().contentHash !== asset.contentHash) return asset.file
  }
  return null
}

const MOST_HEADER_BYTES = 4_096
/** Its marker and its first block. */
const LEAST_FLAC_BYTES = 42

/** @throws DamagedSoundError if the entry is not the WAV file that the document promises. */
async function* chunksOfEntry(entry: ZipEntry | undefined, asset: AssetEntry): AsyncGenerator<Planar> {
  const damaged = () => new DamagedSoundError(asset.file)
  if (!entry) throw damaged()
  if (asset.file.endsWith('.flac')) return yield* chunksOfFlac(entry, asset)
  const pieces = entry.read()[Symbol.asyncIterator]()
  let held = new Uint8Array(0)
  let ended = false
  /** At least so many bytes are held, if the entry has them. */
  const hold = async (count: number) => {
    const parts = [held]
    let length = held.length
    while (length < count && !ended) {
      const next = await pieces.next().catch(() => null)
      if (!next) throw damaged()
      ended = next.done === true
      if (next.value) {
        parts.push(next.value)
        length += next.value.length
      }
    }
    if (parts.length === 1) return
    held = new Uint8Array(length)
    let at = 0
    for (const part of parts) {
      held.set(part, at)
      at += part.length
    }
  }
  try {
    await hold(MOST_HEADER_BYTES)
    const parsed = readWavHeader(held)
    if (!parsed.ok) throw damaged()
    const { header } = parsed
    const frameBytes = bytesPerSample(header.encoding) * header.channels
    if (header.sampleRateHz !== SAMPLE_RATE_HZ || header.channels !== asset.channels) throw damaged()
    held = held.subarray(header.dataOffset)
    for (let frame = 0; frame < asset.frames; frame += CHUNK_FRAMES) {
      const bytes = frameBytes * Math.min(CHUNK_FRAMES, asset.frames - frame)
      await hold(bytes)
      if (held.length < bytes) throw damaged()
      const planes = decodeSamples(held.subarray(0, bytes), header.encoding, header.channels)
      if (planes.some(plane => silenceUnsound(plane) > 0)) throw damaged()
      yield planes
      held = held.subarray(bytes)
    }
  } finally {
    await pieces.return?.(undefined)
  }
}

/** @throws DamagedSoundError if the entry is not the FLAC file that the document promises. */
async function* chunksOfFlac(entry: ZipEntry, asset: AssetEntry): AsyncGenerator<Planar> {
  const damaged = () => new DamagedSoundError(asset.file)
  if (asset.frames > MOST_PACKED_FRAMES) throw damaged()
  const opened = await readWhole(entry).then(
    bytes => openSound(bytesOf(bytes)),
    () => null,
  )
  if (!opened?.ok || opened.sound.format !== 'flac' || opened.sound.sampleRateHz !== SAMPLE_RATE_HZ || opened.sound.channels !== asset.channels) throw damaged()
  let held: Planar = Array.from({ length: asset.channels }, () => new Float32Array(0))
  let frames = 0
  const pieces = opened.sound.chunks()[Symbol.asyncIterator]()
  for (;;) {
    const next = await pieces.next().catch(() => null)
    if (!next) throw damaged()
    if (next.value) held = held.map((plane, c) => concatMono(plane, next.value!.planes[c]))
    const isEnd = next.done === true
    while (held[0].length >= CHUNK_FRAMES || (isEnd && held[0].length > 0)) {
      const chunk = held.map(plane => plane.slice(0, CHUNK_FRAMES))
      held = held.map(plane => plane.subarray(CHUNK_FRAMES))
      frames += chunk[0].length
      if (frames > asset.frames || chunk.some(plane => silenceUnsound(plane) > 0)) throw damaged()
      yield chunk
    }
    if (isEnd) break
  }
  if (frames !== asset.frames) throw damaged()
}

export class DamagedSoundError extends Error {
  constructor(readonly file: string) {
    super(`the sound ${file} is damaged`)
    this.name = 'DamagedSoundError'
  }
}
