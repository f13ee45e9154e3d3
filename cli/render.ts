/** `plush render`: a song file to a WAV, by the renderer that also plays. */
import { readFile, writeFile } from 'node:fs/promises'
import type { Planar } from '../src/core/audio/frames'
import { renderDelivery } from '../src/core/files/delivery'
import { readSongFile } from '../src/core/files/song-file'
import { planDelivery } from '../src/core/mix/plan'
import type { AssetStore } from '../src/core/mix/render-offline'
import type { AssetId } from '../src/core/song/schema'
import { fail } from './failure'

export async function renderSongFile(file: string, { out, only, rate }: { out: string; only?: 'vocals' | 'beat'; rate: 44_100 | 48_000 }): Promise<void> {
  const bytes = await readFile(file).catch((error: Error) => fail(`${file} cannot be read: ${error.message}`))
  const read = readSongFile(bytes)
  if (read.kind === 'refused') fail(`${file} is not a song file that can be used: ${read.reason}${read.detail ? ` (${read.detail})` : ''}`)
  const loaded = new Map<AssetId, { frames: number; chunks: Planar[] }>()
  for (const asset of read.assets) loaded.set(asset.id, { frames: asset.frames, chunks: [...read.chunksOf(asset)] })
  const store: AssetStore = {
    framesOf: assetId => Promise.resolve(loaded.get(assetId)!.frames),
    readChunks: (assetId, indices) => Promise.resolve(indices.map(index => loaded.get(assetId)!.chunks[index])),
  }
  const result = await renderDelivery({ plan: planDelivery(read.song, only ?? 'mix'), store, sampleRateHz: rate })
  if (result.kind !== 'delivered') fail('nothing in this song sounds')
  await writeFile(out, Buffer.concat(result.parts)).catch((error: Error) => fail(`${out} cannot be written: ${error.message}`))
  const { seconds, loudness } = result.report
  console.log(`${out}: ${seconds.toFixed(2)} s, peak ${loudness.samplePeakDbfs.toFixed(2)} dBFS, ${loudness.integratedLufs.toFixed(1)} LUFS`)
}
