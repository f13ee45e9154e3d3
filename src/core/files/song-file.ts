/** The song file: one zip with the document and every sound it uses. Described in docs/song-file.md. */
import { strFromU8, strToU8 } from 'fflate'
import { z } from 'zod'
import type { Planar } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { silenceUnsound } from '../audio/unsound'
import { CHUNK_FRAMES } from '../mix/chunk-window'
import { openSong } from '../song/open'
import type { AssetId, Song } from '../song/schema'
import { AssetIdSchema } from '../song/schema'
import type { AssetFacts } from './asset'
import type { ByteSource } from './byte-source'
import { bytesPerSample, decodeSamples, encodeSamples, encodeWavHeader, readWavHeader } from './wav'
import { readZip, writeZip, type ZipEntry } from './zip'

const SONG_FILE_FORMAT = 'plush-layer-song'
const SONG_FILE_VERSION = 1

/** What is refused before anything is unpacked. */
const LIMITS = { entries: 4_000, documentBytes: 64 << 20, assetBytes: 2 ** 31, totalBytes: 2 ** 37 }

const AssetEntrySchema = z.strictObject({
  id: AssetIdSchema,
  file: z.string().regex(/^sounds\/[A-Za-z0-9_-]{1,64}\.wav$/),
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
  formatVersion: z.literal(SONG_FILE_VERSION),
  song: z.unknown(),
  assets: z.array(AssetEntrySchema).max(LIMITS.entries),
})
export type AssetEntry = z.infer<typeof AssetEntrySchema>

/** A song as it is handed on: without the song that its mix is held against, which is not the singer's to give. */
function handedOn(song: Song): Song {
  return { ...song, reference: null }
}

/** Every asset a song needs, the beat first; takes in the bin come along. */
export function assetsOfSong(song: Song): AssetId[] {
  return [...new Set([song.beat.assetId, ...song.beat.treatments.flatMap(({ assetId }) => assetId ?? []), ...song.takes.map(take => take.assetId)])]
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
  const entries: AssetEntry[] = assets.map(({ id, facts: { frames, channels, contentHash } }) => ({
    id,
    file: `sounds/${id}.wav`,
    frames,
    channels,
    contentHash,
  }))
  const document = strToU8(JSON.stringify({ format: SONG_FILE_FORMAT, formatVersion: SONG_FILE_VERSION, song: handedOn(song), assets: entries }, null, 1))
  const total = assets.reduce((sum, asset) => sum + asset.facts.frames * asset.facts.channels, 0)
  let written = 0
  async function* soundFile({ id, facts }: (typeof assets)[number]): AsyncGenerator<Uint8Array<ArrayBuffer>> {
    yield encodeWavHeader({ frames: facts.frames, channels: facts.channels, sampleRateHz: SAMPLE_RATE_HZ, encoding: facts.encoding })
    for await (const planes of chunksOf(id)) {
      yield encodeSamples(planes, facts.encoding)
      written += planes[0].length * planes.length
      onProgress?.(written / total)
    }
  }
  async function* files() {
    yield { name: 'song.json', bytes: [document] }
    for (const asset of assets) yield { name: `sounds/${asset.id}.wav`, bytes: soundFile(asset) }
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

const ENTRY_NAME = /^(song\.json|sounds\/[A-Za-z0-9_-]{1,64}\.wav|sounds\/)$/

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
    // A header and samples of at most 4 bytes: nothing else belongs in the entry.
    if (size < asset.frames * asset.channels * 2 + 44 || size > asset.frames * asset.channels * 4 + MOST_HEADER_BYTES)
      return refuse('damaged-sound', asset.file)
  }
  if (listed.get(opened.song.beat.assetId)!.frames !== opened.song.beat.sourceFrames) return refuse('damaged-document', 'beat.sourceFrames')
  return { kind: 'read', song: handedOn(opened.song), assets: envelope.data.assets, chunksOf: asset => chunksOfEntry(files.get(asset.file), asset) }
}

const MOST_HEADER_BYTES = 4_096

/** @throws DamagedSoundError if the entry is not the WAV file that the document promises. */
async function* chunksOfEntry(entry: ZipEntry | undefined, asset: AssetEntry): AsyncGenerator<Planar> {
  const damaged = () => new DamagedSoundError(asset.file)
  if (!entry) throw damaged()
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

export class DamagedSoundError extends Error {
  constructor(readonly file: string) {
    super(`the sound ${file} is damaged`)
    this.name = 'DamagedSoundError'
  }
}

async function readWhole(entry: ZipEntry): Promise<Uint8Array> {
  const whole = new Uint8Array(entry.bytes)
  let at = 0
  for await (const piece of entry.read()) {
    whole.set(piece, at)
    at += piece.length
  }
  return whole
}
