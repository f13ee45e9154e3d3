/** The song file: one zip with the document and every sound it uses. Described in docs/song-file.md. */
import { strFromU8, strToU8, unzipSync, Zip, ZipDeflate, ZipPassThrough } from 'fflate'
import { z } from 'zod'
import type { Planar } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { CHUNK_FRAMES } from '../mix/chunk-window'
import { openSong } from '../song/open'
import type { AssetId, Song } from '../song/schema'
import { AssetIdSchema } from '../song/schema'
import type { AssetFacts } from './asset'
import { bytesPerSample, decodeSamples, encodeSamples, encodeWavHeader, readWavHeader } from './wav'

export const SONG_FILE_FORMAT = 'plush-layer-song'
export const SONG_FILE_VERSION = 1

/** What is refused before anything is unpacked. */
const LIMITS = { entries: 4_000, documentBytes: 64 << 20, assetBytes: 1 << 30, totalBytes: 4 * 2 ** 30 }

const AssetEntrySchema = z.strictObject({
  id: AssetIdSchema,
  file: z.string().regex(/^sounds\/[A-Za-z0-9_-]{1,64}\.wav$/),
  frames: z.number().int().min(1).max(48_000 * 60 * 60),
  channels: z.number().int().min(1).max(2),
  contentHash: z.string().regex(/^[0-9a-f]{16}$/),
})
const EnvelopeSchema = z.strictObject({ format: z.literal(SONG_FILE_FORMAT), formatVersion: z.literal(SONG_FILE_VERSION), song: z.unknown(), assets: z.array(AssetEntrySchema).max(LIMITS.entries) })
export type AssetEntry = z.infer<typeof AssetEntrySchema>

/** Every asset a song needs, the beat first; takes in the bin come along. */
export function assetsOfSong(song: Song): AssetId[] {
  return [...new Set([song.beat.assetId, ...song.beat.treatments.map(treatment => treatment.assetId), ...song.takes.map(take => take.assetId)])]
}

/**
 * Writes a song file piece by piece.
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
  const pieces: Uint8Array<ArrayBuffer>[] = []
  const zip = new Zip((error, bytes) => {
    if (error) throw error
    pieces.push(bytes as Uint8Array<ArrayBuffer>)
  })
  const flush = async () => {
    for (const piece of pieces.splice(0)) await emit(piece)
  }
  const entries: AssetEntry[] = assets.map(({ id, facts: { frames, channels, contentHash } }) => ({ id, file: `sounds/${id}.wav`, frames, channels, contentHash }))
  const document = new ZipDeflate('song.json', { level: 6 })
  document.mtime = FIXED_TIME
  zip.add(document)
  document.push(strToU8(JSON.stringify({ format: SONG_FILE_FORMAT, formatVersion: SONG_FILE_VERSION, song, assets: entries }, null, 1)), true)
  await flush()
  const total = assets.reduce((sum, asset) => sum + asset.facts.frames * asset.facts.channels, 0)
  let written = 0
  for (const { id, facts } of assets) {
    const file = new ZipPassThrough(`sounds/${id}.wav`)
    file.mtime = FIXED_TIME
    zip.add(file)
    file.push(encodeWavHeader({ frames: facts.frames, channels: facts.channels, sampleRateHz: SAMPLE_RATE_HZ, encoding: facts.encoding }))
    for await (const planes of chunksOf(id)) {
      if (signal?.aborted) return
      file.push(encodeSamples(planes, facts.encoding))
      written += planes[0].length * planes.length
      onProgress?.(written / total)
      await flush()
    }
    file.push(new Uint8Array(0), true)
    await flush()
  }
  zip.end()
  await flush()
}

/** Zip keeps times; a fixed one makes equal songs equal files. */
const FIXED_TIME = new Date(2000, 0, 1)

export type ReadSongFileResult =
  | { kind: 'read'; song: Song; assets: AssetEntry[]; chunksOf: (asset: AssetEntry) => Iterable<Planar> }
  | { kind: 'refused'; reason: 'not-zip' | 'no-document' | 'not-a-song' | 'unsafe-name' | 'too-large' | 'damaged-document' | 'missing-sound' | 'damaged-sound'; detail: string }
  | { kind: 'refused'; reason: 'newer'; detail: string }

/** Checks everything that can be checked without unpacking the sounds; `chunksOf` then unpacks one at a time. */
export function readSongFile(bytes: Uint8Array): ReadSongFileResult {
  const refuse = (reason: Exclude<ReadSongFileResult, { kind: 'read' }>['reason'], detail = ''): ReadSongFileResult => ({ kind: 'refused', reason, detail })
  const files = new Map<string, number>()
  let unsafe: string | null = null
  let total = 0
  try {
    unzipSync(bytes, {
      filter: file => {
        if (!/^(song\.json|sounds\/[A-Za-z0-9_-]{1,64}\.wav|sounds\/)$/.test(file.name) || files.has(file.name)) unsafe ??= file.name
        files.set(file.name, file.originalSize)
        total += file.originalSize
        return false
      },
    })
  } catch {
    return refuse('not-zip')
  }
  if (unsafe !== null) return refuse('unsafe-name', (unsafe as string).slice(0, 80))
  const documentBytes = files.get('song.json')
  if (documentBytes === undefined) return refuse('no-document')
  const largest = Math.max(...files.values())
  if (files.size > LIMITS.entries || documentBytes > LIMITS.documentBytes || largest > LIMITS.assetBytes || total > LIMITS.totalBytes || total > bytes.length * 1_100) return refuse('too-large')
  let json: unknown
  try {
    json = JSON.parse(strFromU8(unpack(bytes, 'song.json')))
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
  if (opened.kind === 'damaged') return refuse('damaged-document', opened.problems.map(problem => `${problem.path}: ${problem.expected}`).join('; ').slice(0, 300))
  const listed = new Map(envelope.data.assets.map(asset => [asset.id, asset]))
  if (listed.size !== envelope.data.assets.length) return refuse('damaged-document', 'assets: unique ids')
  for (const assetId of assetsOfSong(opened.song)) {
    const asset = listed.get(assetId)
    const size = asset && files.get(asset.file)
    if (!asset || size === undefined) return refuse('missing-sound', assetId)
    // A header and samples of at most 4 bytes: nothing else belongs in the entry.
    if (size < asset.frames * asset.channels * 2 + 44 || size > asset.frames * asset.channels * 4 + 4_096) return refuse('damaged-sound', asset.file)
  }
  if (listed.get(opened.song.beat.assetId)!.frames !== opened.song.beat.sourceFrames) return refuse('damaged-document', 'beat.sourceFrames')
  return { kind: 'read', song: opened.song, assets: envelope.data.assets, chunksOf: asset => chunksOfEntry(bytes, asset) }
}

/** @throws DamagedSoundError if the entry is not the WAV file that the document promises. */
function* chunksOfEntry(bytes: Uint8Array, asset: AssetEntry): Generator<Planar> {
  let file: Uint8Array
  try {
    file = unpack(bytes, asset.file)
  } catch {
    throw new DamagedSoundError(asset.file)
  }
  const parsed = readWavHeader(file)
  if (!parsed.ok) throw new DamagedSoundError(asset.file)
  const { header } = parsed
  const frameBytes = bytesPerSample(header.encoding) * header.channels
  if (header.sampleRateHz !== SAMPLE_RATE_HZ || header.channels !== asset.channels || file.length - header.dataOffset < asset.frames * frameBytes) throw new DamagedSoundError(asset.file)
  for (let frame = 0; frame < asset.frames; frame += CHUNK_FRAMES) {
    const end = Math.min(asset.frames, frame + CHUNK_FRAMES)
    yield decodeSamples(file.subarray(header.dataOffset + frame * frameBytes, header.dataOffset + end * frameBytes), header.encoding, header.channels)
  }
}

export class DamagedSoundError extends Error {
  constructor(readonly file: string) {
    super(`the sound ${file} is damaged`)
    this.name = 'DamagedSoundError'
  }
}

function unpack(bytes: Uint8Array, name: string): Uint8Array {
  const unpacked = unzipSync(bytes, { filter: file => file.name === name })
  if (!unpacked[name]) throw new DamagedSoundError(name)
  return unpacked[name]
}
