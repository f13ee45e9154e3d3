/** A print in storage: found, or made now. */
import { cutIntoChunks } from '../core/mix/chunk-window'
import { printIdOf, type PrintJob } from '../core/prints/jobs'
import { makePrint } from '../core/prints/make-print'
import type { AssetId } from '../core/song/schema'
import { database, isQuotaError } from '../storage/database'
import { emptyPrints, notePrint } from '../storage/prints'
import { AssetWriter, discardAsset, findMissingSound, readStretch } from '../storage/sounds'
import type { MakePrintResult } from './contract'
import { hearVoice } from './hear-stored'

export async function ensurePrint(job: PrintJob): Promise<MakePrintResult> {
  const asset = await database.assets.get(job.assetId)
  const missing = await findMissingSound([job.assetId])
  if (!asset || missing.some(({ startFrame, endFrame }) => startFrame < job.endFrame && endFrame > job.startFrame)) return { kind: 'missing-sound' }
  const assetId = await printIdOf(job, asset.contentHash)
  return alone(assetId, () => makeUnlessThere(job, assetId))
}

/** Two files that are rendered at once need the same prints: the second waits for the first, and finds them. */
async function alone<T>(assetId: AssetId, act: () => Promise<T>): Promise<T> {
  return navigator.locks.request(`plush-print-${assetId}`, act)
}

async function makeUnlessThere(job: PrintJob, assetId: AssetId): Promise<MakePrintResult> {
  await notePrint(assetId)
  if (await database.assets.get(assetId)) return { kind: 'made', assetId }
  const planes = await makePrint(job, { read: readStretch, pitchOf: id => hearVoice(id, () => {}) })
  try {
    await store(assetId, planes)
  } catch (error) {
    await discardAsset(assetId)
    if (!isQuotaError(error)) throw error
    // Prints can always be made again: the disk is for what cannot.
    await emptyPrints()
    return { kind: 'storage-full' }
  }
  return { kind: 'made', assetId }
}

async function store(assetId: AssetId, planes: Awaited<ReturnType<typeof makePrint>>): Promise<void> {
  const writer = await AssetWriter.create(assetId, planes.length)
  for (const chunk of cutIntoChunks(planes)) await writer.push(chunk)
  await writer.finish()
}
