/** Song files out of storage and into it, piece by piece. */
import type { Planar } from '../core/audio/frames'
import { readBackup, writeBackup, type BackedUpSong } from '../core/files/backup-file'
import { DamagedSoundError, readSongFile, whatIsWrong, writeSongFile, type AssetEntry } from '../core/files/song-file'
import { addedTakes } from '../core/layers/merge'
import { isPrint, NO_PRINTS, printIdOf } from '../core/prints/jobs'
import { planPrints } from '../core/prints/plan-prints'
import { assetsOfSong } from '../core/song/assets'
import { openSong } from '../core/song/open'
import type { AssetId, Song, SongId } from '../core/song/schema'
import { withoutSounds, withoutUnused } from '../core/song/takes'
import { database, isQuotaError, makeId } from '../storage/database'
import { notePrint } from '../storage/prints'
import { addSong, destroySong, findTwin, standingSongs } from '../storage/songs'
import { AssetWriter, chunksOf, discardAsset, findMissingSound, requireAsset } from '../storage/sounds'
import type { ImportSongResult, Jobs } from './contract'
import { fileSource } from './file-source'
import { prepared } from './stored-sounds'

/** Blobs may lie on disk; fewer and larger ones are quicker to join. */
const PART_BYTES = 8 << 20

/** Of the progress, what writing is; the rest is opening it again. */
const WRITE_SHARE = 0.6
/** Of it, what making prints is. */
const PREPARE_SHARE = 0.3

export const exportSong: Jobs['exportSong'] = async ({ song: asked, withoutMissing, onlyUsed, withPrints }, onProgress) => {
  const song = onlyUsed ? withoutUnused(asked) : asked
  const missing = await findMissingSound(assetsOfSong(song))
  if (missing.length > 0 && !withoutMissing)
    return { kind: 'missing-sound', missing: missing.map(({ assetId, startFrame, endFrame }) => inSong(song, assetId, startFrame, endFrame)) }
  const whole = withoutSounds(
    song,
    missing.map(({ assetId }) => assetId),
  )
  const made = withPrints ? await prepared(whole, fraction => onProgress(PREPARE_SHARE * fraction)) : { song: whole, prints: NO_PRINTS }
  const from = withPrints ? PREPARE_SHARE : 0
  const file = await songFileOf(made.song, fraction => onProgress(from + (WRITE_SHARE - from) * fraction), [...new Set(made.prints.values())])
  const wrong = await whatIsWrong(fileSource(file), fraction => onProgress(WRITE_SHARE + (1 - WRITE_SHARE) * fraction))
  if (wrong !== null) throw new Error(`the file was opened again, and is not whole: ${wrong}`)
  return { kind: 'made', file }
}

async function songFileOf(song: Song, onProgress: (fraction: number) => void, prints: readonly AssetId[] = []): Promise<Blob> {
  const assets = await Promise.all([...assetsOfSong(song), ...prints].map(async id => ({ id, facts: await requireAsset(id) })))
  const gathered = new BlobGatherer()
  await writeSongFile({ song, assets, chunksOf, emit: bytes => gathered.push(bytes), onProgress })
  return gathered.finish('application/zip')
}

class BlobGatherer {
  private readonly parts: Blob[] = []
  private held: Uint8Array<ArrayBuffer>[] = []
  private heldBytes = 0

  push(bytes: Uint8Array<ArrayBuffer>): void {
    this.held.push(bytes)
    this.heldBytes += bytes.length
    if (this.heldBytes >= PART_BYTES) this.flush()
  }

  finish(type: string): Blob {
    this.flush()
    return new Blob(this.parts, { type })
  }

  private flush(): void {
    this.parts.push(new Blob(this.held))
    this.held = []
    this.heldBytes = 0
  }
}

/** Songs that cannot be read, or lack sound, are named and left out of it. */
export const backUp: Jobs['backUp'] = async (_, onProgress) => {
  const rows = await standingSongs()
  const leftOut: string[] = []
  const songs: { title: string; file: Blob }[] = []
  for (const [i, row] of rows.entries()) {
    const opened = openSong(row.song)
    const title = opened.kind === 'current' ? opened.song.title : row.song.title
    const isWhole = opened.kind === 'current' && (await findMissingSound(assetsOfSong(opened.song))).length === 0
    if (opened.kind === 'current' && isWhole) songs.push({ title, file: await songFileOf(opened.song, part => onProgress((i + part) / rows.length)) })
    else leftOut.push(title)
  }
  if (songs.length === 0) return { kind: 'empty', leftOut }
  const gathered = new BlobGatherer()
  await writeBackup(
    songs.map(({ title, file }) => ({ title, bytes: () => piecesOf(file) })),
    bytes => gathered.push(bytes),
  )
  return { kind: 'made', file: gathered.finish('application/zip'), songs: songs.length, leftOut }
}

async function* piecesOf(file: Blob): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  for (let at = 0; at < file.size; at += PART_BYTES) yield new Uint8Array(await file.slice(at, at + PART_BYTES).arrayBuffer())
}

/** What a friend added: its new takes' sounds are stored, all else of the file is not. */
export const readAdded: Jobs['readAdded'] = async ({ song, file }, onProgress) => {
  const read = await readSongFile(fileSource(file))
  if (read.kind === 'refused') return read
  const beat = read.assets.find(({ id }) => id === read.song.beat.assetId)
  if (beat?.contentHash !== (await requireAsset(song.beat.assetId)).contentHash) return { kind: 'other-beat' }
  const added = new Set(addedTakes(song, read.song).map(take => take.assetId))
  const assets = read.assets.filter(asset => added.has(asset.id))
  const stored = await storeAssets(assets, read.chunksOf, onProgress)
  return stored.kind === 'stored' ? { kind: 'read', theirs: withAssetIds(read.song, stored.ids), assetIds: [...stored.ids.values()] } : stored
}

/** Where a stretch of a sound lies in the song; as it is for what has no place of its own. */
function inSong(song: Song, assetId: AssetId, startFrame: number, endFrame: number) {
  const take = song.takes.find(entry => entry.assetId === assetId)
  if (!take) return { assetId, startFrame, endFrame }
  return { assetId, startFrame: Math.max(take.startFrame, startFrame + take.originFrame), endFrame: Math.min(take.endFrame, endFrame + take.originFrame) }
}

export const importSong: Jobs['importSong'] = async ({ file }, onProgress) => {
  const backup = await readBackup(fileSource(file))
  if (backup) return bringBack(backup, onProgress)
  return importOne(file, onProgress)
}

/** Song by song; one that is here already, sound for sound, is not brought back twice. */
async function bringBack(songs: readonly BackedUpSong[], onProgress: (fraction: number) => void): Promise<Extract<ImportSongResult, { kind: 'brought-back' }>> {
  const outcome: Extract<ImportSongResult, { kind: 'brought-back' }> = { kind: 'brought-back', songs: 0, here: [], refused: [] }
  for (const [i, { title, read }] of songs.entries()) {
    const gathered = new BlobGatherer()
    try {
      for await (const bytes of read()) gathered.push(bytes)
    } catch {
      outcome.refused.push(title)
      continue
    }
    const result = await importOne(gathered.finish('application/zip'), part => onProgress((i + part) / songs.length))
    if (result.kind !== 'imported') outcome.refused.push(title)
    else if (await findTwin(result.songId)) {
      await destroySong(result.songId)
      outcome.here.push(title)
    } else outcome.songs++
  }
  return outcome
}

async function importOne(file: Blob, onProgress: (fraction: number) => void): Promise<Exclude<ImportSongResult, { kind: 'brought-back' }>> {
  const read = await readSongFile(fileSource(file))
  if (read.kind === 'refused') return read
  const [prints, own] = [true, false].map(wanted => read.assets.filter(({ id }) => isPrint(id) === wanted)) as [AssetEntry[], AssetEntry[]]
  const stored = await storeAssets(own, read.chunksOf, onProgress)
  if (stored.kind !== 'stored') return stored
  const song = withAssetIds({ ...read.song, id: makeId() as SongId }, stored.ids)
  await addSong(song, new Date().toISOString())
  await storePrints(song, prints, read.chunksOf)
  return { kind: 'imported', songId: song.id }
}

/** Prints keep their names: those that the song asks for, and that are not here yet. One that cannot be read or stored is made again when it is played. */
async function storePrints(song: Song, prints: readonly AssetEntry[], read: (asset: AssetEntry) => AsyncIterable<Planar>): Promise<void> {
  if (prints.length === 0) return
  const wanted = new Set<AssetId>()
  for (const job of planPrints(song)) wanted.add(await printIdOf(job, (await requireAsset(job.assetId)).contentHash))
  for (const print of prints.filter(({ id }) => wanted.has(id))) {
    if (await database.assets.get(print.id)) continue
    await notePrint(print.id)
    await storeAsset(print, print.id, read).catch(() => discardAsset(print.id))
  }
}

type Stored = { kind: 'stored'; ids: Map<AssetId, AssetId> } | { kind: 'storage-full' } | { kind: 'refused'; reason: 'damaged-sound'; detail: string }

/** Under ids of their own; nothing stays of them if one is damaged, or there is no room. */
async function storeAssets(
  assets: readonly AssetEntry[],
  read: (asset: AssetEntry) => AsyncIterable<Planar>,
  onProgress: (fraction: number) => void,
): Promise<Stored> {
  const ids = new Map(assets.map(asset => [asset.id, makeId() as AssetId]))
  const total = assets.reduce((sum, asset) => sum + asset.frames * asset.channels, 0)
  let done = 0
  try {
    for (const asset of assets)
      await storeAsset(asset, ids.get(asset.id)!, read, samples => {
        done += samples
        onProgress(done / total)
      })
    return { kind: 'stored', ids }
  } catch (error) {
    for (const assetId of ids.values()) await discardAsset(assetId)
    if (isQuotaError(error)) return { kind: 'storage-full' }
    if (error instanceof DamagedSoundError) return { kind: 'refused', reason: 'damaged-sound', detail: error.file }
    throw error
  }
}

/** @throws DamagedSoundError if it is not what the file says it is. */
async function storeAsset(
  asset: AssetEntry,
  as: AssetId,
  read: (asset: AssetEntry) => AsyncIterable<Planar>,
  onSamples: (count: number) => void = () => {},
): Promise<void> {
  const writer = await AssetWriter.create(as, asset.channels)
  for await (const planes of read(asset)) {
    await writer.push(planes)
    onSamples(planes[0]!.length * asset.channels)
  }
  const facts = await writer.finish()
  if (facts.contentHash !== asset.contentHash) throw new DamagedSoundError(asset.file)
}

/** Stored assets get ids of their own, so that a song imported twice is two songs. */
function withAssetIds(song: Song, ids: ReadonlyMap<AssetId, AssetId>): Song {
  const renamed = (assetId: AssetId) => ids.get(assetId) ?? assetId
  return {
    ...song,
    beat: {
      ...song.beat,
      assetId: renamed(song.beat.assetId),
      treatments: song.beat.treatments.map(treatment => ({ ...treatment, assetId: treatment.assetId && renamed(treatment.assetId) })),
    },
    takes: song.takes.map(take => ({ ...take, assetId: renamed(take.assetId) })),
  }
}
