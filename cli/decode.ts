/** `plush decode`: what the importer makes of a file. */
import { createWriteStream } from 'node:fs'
import { once } from 'node:events'
import { encodeSamples, encodeWavHeader } from '../src/core/files/wav'
import type { Planar } from '../src/core/audio/frames'
import { SAMPLE_RATE_HZ } from '../src/core/audio/frames'
import { cutIntoChunks } from '../src/core/mix/chunk-window'
import { loadSound } from './file-source'
import { fail } from './failure'

export async function decodeFile(file: string, { out }: { out: string }): Promise<void> {
  const loaded = await loadSound(file)
  if (!loaded.ok) fail(`${file}: ${loaded.error}`)
  if (loaded.warning) console.error(`plush: ${file}: ${loaded.warning}`)
  await writeWav(out, loaded.planes, 'float32')
}

/** A whole 48 kHz sound to disk. */
export async function writeWav(path: string, planes: Planar, encoding: 'float32' | 'pcm16'): Promise<void> {
  const stream = createWriteStream(path)
  stream.on('error', error => fail(`${path} cannot be written: ${error.message}`))
  stream.write(encodeWavHeader({ frames: planes[0].length, channels: planes.length, sampleRateHz: SAMPLE_RATE_HZ, encoding }))
  for (const chunk of cutIntoChunks(planes)) if (!stream.write(encodeSamples(chunk, encoding))) await once(stream, 'drain')
  stream.end()
  await once(stream, 'finish')
}
