/** A sung file into storage, as one channel. */
import { peakOf } from '../core/audio/decibels'
import { mixToMono } from '../core/audio/frames'
import { SideTally } from '../core/beat/ear-mix'
import type { AssetId } from '../core/song/schema'
import { discardAsset } from '../storage/sounds'
import type { ImportVoiceResult, OnProgress } from './contract'
import { storeSound } from './store-sound'

/** Softer than this from end to end, -80 dBFS, there is no voice in it. */
const SILENT_PEAK = 1e-4

/** The mean of both sides; where these cancel each other out, as in a file with one side turned round, the left side alone. */
export async function storeVoice(file: Blob, assetId: AssetId, onProgress: OnProgress): Promise<ImportVoiceResult> {
  const options = { onProgress: (fraction: number) => onProgress(fraction), acceptCutShort: true }
  const tally = new SideTally()
  let peak = 0
  const both = await storeSound(
    file,
    assetId,
    planes => {
      const mixed = mixToMono(planes)
      tally.push(planes, mixed)
      peak = Math.max(peak, ...planes.map(peakOf))
      return [mixed.slice()]
    },
    options,
  )
  if (both.kind !== 'imported') return both
  if (peak >= SILENT_PEAK && !tally.sidesCancel) return { ...both, sidesCancel: false }
  await discardAsset(assetId)
  if (peak < SILENT_PEAK) return { kind: 'refused', reason: 'silent', format: both.sound.format }
  const left = await storeSound(file, assetId, planes => [planes[0]!.slice()], options)
  return left.kind === 'imported' ? { ...left, sidesCancel: true } : left
}
