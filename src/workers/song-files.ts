/** Song files out of storage and into it, piece by piece. */
import { assetsOfSong, DamagedSoundError, readSongFile, writeSongFile } from '../core/files/song-file'
import type { AssetId, Song, SongId } from '../core/song/schema'
import { withoutSounds } from '../core/song/takes'
import { isQuotaError, makeId } from '../storage/database'
import { addSong } from '../storage/songs'
import { AssetWriter, chunksOf, discardAsset, findMissingSound, requireAsset } from '../storage/sounds'
import type { Jobs } from './contract'
import { fileSource } from './file-source'

/** Blobs may lie on disk; fewer and larger ones are quicker to join. */
const PART_BYTES = 8 << 20

export const exportSong: Jobs['exportSong'] = async ({ song, withoutMissing }, onProgress) => {
  const missing = await findMissingSound(assetsOfSong(song))
  if (missing.length > 0 && !withoutMissing)
    return { kind: 'missing-sound', missing: missing.map(({ assetId, startFrame, endFrame }) => inSong(song, assetId, startFrame, endFrame)) }
  const whole = withoutSounds(
    song,
    missing.map(({ assetId }) => assetId),
  )
  const assets = await Promise.all(assetsOfSong(whole).map(async id => ({ id, facts: await requireAsset(id) })))
  const parts: Blob[] = []
  let held: Uint8Array<ArrayBuffer>[] = []
  let heldBytes = 0
  const flush = () => {
    parts.push(new Blob(held))
    held = []
    heldBytes = 0
  }
  const emit = (bytes: Uint8Array<ArrayBuffer>) => {
    held.push(bytes)
    heldBytes += bytes.length
    if (heldBytes >= PART_BYTES) flush()
  }
  await writeSongFile({ song: whole, assets, chunksOf, emit, onProgress })
  flush()
  return { kind: 'made', file: new Blob(parts, { type: 'application/zip' }) }
}

/** Where a stretch of a sound lies in the song; as it is for what has no place of its own. */
function inSong(song: Song, assetId: AssetId, startFrame: number, endFrame: number) {
  const take = song.takes.find(entry => entry.assetId === assetId)
  if (!take) return { assetId, startFrame, endFrame }
  return { assetId, startFrame: Math.max(take.startFrame, startFrame + take.originFrame), endFrame: Math.min(take.endFrame, endFrame + take.originFrame) }
}

export const importSong: Jobs['importSong'] = async ({ file }, onProgress) => {
  const read = await readSongFile(fileSource(file))
  if (read.kind === 'refused') return read
  const ids = new Map(read.assets.map(asset => [asset.id, makeId() as AssetId]))
  const total = read.assets.reduce((sum, asset) => sum + asset.frames * asset.channels, 0)
  let done = 0
  try {
    for (const asset of read.assets) {
      const writer = await AssetWriter.create(ids.get(asset.id)!, asset.channels)
      for await (const planes of read.chunksOf(asset)) {
        await writer.push(planes)
        done += planes[0]!.length * asset.channels
        onProgress(done / total)
      }
      const facts = await writer.finish()
      if (facts.contentHash !== asset.contentHash) throw new DamagedSoundError(asset.file)
    }
    const song = withAssetIds({ ...read.song, id: makeId() as SongId }, ids)
    await addSong(song, new Date().toISOString())
    return { kind: 'imported', songId: song.id }
  } catch (error) {
    for (const assetId of ids.values()) await discardAsset(assetId)
    if (isQuotaError(error)) return { kind: 'storage-full' }
    if (error instanceof DamagedSoundError) return { kind: 'refused', reason: 'damaged-sound', detail: error.file }
    throw error
  }
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
