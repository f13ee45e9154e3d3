/** `plush render`: a song file to a WAV, by the renderer that also plays. */
import { writeFile } from 'node:fs/promises'
import type { Planar } from '../src/core/audio/frames'
import type { ByteSource } from '../src/core/files/byte-source'
import { renderDelivery, type DeliveryRateHz } from '../src/core/files/delivery'
import { readSongFile } from '../src/core/files/song-file'
import { planDelivery } from '../src/core/mix/plan'
import type { AssetStore } from '../src/core/mix/render-offline'
import type { AssetId } from '../src/core/song/schema'
import { fail } from './failure'
import { withFile } from './file-source'

interface RenderWish {
  out: string
  only?: 'vocals' | 'beat'
  rate: DeliveryRateHz
}

export async function renderSongFile(file: string, wish: RenderWish): Promise<void> {
  await withFile(file, source => render(source, file, wish)).catch((error: Error) => fail(`${file} cannot be read: ${error.message}`))
}

async function render(source: ByteSource, file: string, { out, only, rate }: RenderWish): Promise<void> {
  const read = await readSongFile(source)
  if (read.kind === 'refused') fail(`${file} is not a song file that can be used: ${read.reason}${read.detail ? ` (${read.detail})` : ''}`)
  const loaded = new Map<AssetId, { frames: number; chunks: Planar[] }>()
  for (const asset of read.assets) {
    const chunks: Planar[] = []
    for await (const planes of read.chunksOf(asset)) chunks.push(planes)
    loaded.set(asset.id, { frames: asset.frames, chunks })
  }
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
