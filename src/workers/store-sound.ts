/** A file's sound into storage: decoded beside, resampled and stored here. */
import type { Planar } from '../core/audio/frames'
import type { PeakLevel } from '../core/audio/peaks'
import { importSound, StuckError } from '../core/files/import-sound'
import type { AssetId } from '../core/song/schema'
import { isQuotaError } from '../storage/database'
import { AssetWriter, discardAsset } from '../storage/sounds'
import type { OnProgress, StoreSoundResult } from './contract'
import { openBeside } from './open-beside'

/** How many new bins of the coarsest peaks are worth drawing: about ten seconds. */
const BINS_AT_ONCE = 60

/** Nothing stays of a file that is refused. @param keep What of the decoded channels is stored. */
export async function storeSound(
  file: Blob,
  assetId: AssetId,
  keep: (planes: Planar) => Planar,
  options: { onProgress: OnProgress<PeakLevel>; acceptCutShort: boolean },
): Promise<StoreSoundResult> {
  let writer: AssetWriter | null = null
  let binsTold = 0
  const tell = (fraction: number) => {
    const arrived = writer?.coarsestPeaks(binsTold)
    if (!arrived || arrived.peak.length < (fraction < 1 ? BINS_AT_ONCE : 1)) return options.onProgress(fraction)
    binsTold += arrived.peak.length
    options.onProgress(fraction, arrived)
  }
  try {
    const result = await importSound(
      await openBeside(file),
      async planes => {
        const kept = keep(planes)
        writer ??= await AssetWriter.create(assetId, kept.length)
        await writer.push(kept)
      },
      { acceptCutShort: options.acceptCutShort, onProgress: tell },
    )
    if (result.kind === 'imported' && writer) {
      // All of it is known, though the last of it is still on its way to the disk.
      tell(1)
      await (writer as AssetWriter).finish()
      return { kind: 'imported', sound: result.sound }
    }
    await discardAsset(assetId)
    return result.kind === 'refused' ? result : { kind: 'refused', reason: 'empty', format: 'unknown' }
  } catch (error) {
    await discardAsset(assetId)
    if (isQuotaError(error)) return { kind: 'storage-full' }
    if (error instanceof StuckError) return { kind: 'stuck' }
    throw error
  }
}
