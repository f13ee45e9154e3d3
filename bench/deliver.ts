/** Encoders as multiples of real time, beside ffmpeg's own; and stems of a full song. */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { registerNodeEncoders } from '../cli/node-encoders'
import { SAMPLE_RATE_HZ, type Planar } from '../src/core/audio/frames'
import { renderDelivery } from '../src/core/deliver/delivery'
import { makeEncoder, usualFormat, type DeliveryFormat } from '../src/core/deliver/encoders'
import { planPart, type Part } from '../src/core/deliver/parts'
import { addLayer } from '../src/core/layers/commands'
import { planMix } from '../src/core/mix/plan'
import type { Song } from '../src/core/song/schema'
import { demo, planesOf, store } from './demo'

const SECONDS = 60
const STEM_SECONDS = 15
const LAYERS = 12
const FFMPEG: Partial<Record<DeliveryFormat['kind'], string[]>> = {
  mp3: ['-c:a', 'libmp3lame', '-b:a', '320k', '-f', 'mp3'],
  flac: ['-c:a', 'flac', '-f', 'flac'],
  aac: ['-c:a', 'aac', '-b:a', '256k', '-f', 'adts'],
  opus: ['-c:a', 'libopus', '-b:a', '160k', '-f', 'ogg'],
}

export async function measureDeliver(): Promise<void> {
  registerNodeEncoders()
  const beat = planesOf.get(demo.song.beat.assetId)!.map(plane => plane.subarray(0, SECONDS * SAMPLE_RATE_HZ))
  const folder = mkdtempSync(join(tmpdir(), 'bench-deliver-'))
  const wav = join(folder, 'in.wav')
  writeFileSync(wav, Buffer.concat(await encoded(usualFormat('wav'), beat)))
  const hasFfmpeg = spawnSync('ffmpeg', ['-version']).status === 0
  for (const kind of ['wav', 'flac', 'mp3', 'aac', 'opus'] as const) {
    const ours = await seconds(() => encoded(usualFormat(kind), beat))
    const options = FFMPEG[kind]
    const reference = options && hasFfmpeg ? await seconds(() => execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', wav, ...options, '/dev/null'])) : null
    const beside = reference === null ? '' : `; ffmpeg's own ${(SECONDS / reference).toFixed(0)} times`
    console.log(`${kind}: ${(SECONDS / ours).toFixed(0)} times real time${beside}`)
  }
  rmSync(folder, { recursive: true })
  await measureStems()
}

async function encoded(format: DeliveryFormat, planes: Planar): Promise<Uint8Array[]> {
  const encoder = await makeEncoder(format)
  await encoder.push(planes)
  return encoder.finish()
}

async function seconds(work: () => unknown): Promise<number> {
  const began = performance.now()
  await work()
  return (performance.now() - began) / 1_000
}

/** Every layer plays what the demo's lead does. */
async function measureStems(): Promise<void> {
  let count = 0
  const makeId = () => `bench-${count++}`
  let song: Song = demo.song
  while (song.layers.length < LAYERS) song = addLayer(song, { name: `Voice ${song.layers.length + 1}`, role: 'double', makeId })
  const spans = planMix(song).channels[0]!.spans
  const parts: Part[] = [{ kind: 'beat' }, ...song.layers.map(({ id }): Part => ({ kind: 'layer', layerId: id }))]
  let sound = 0
  const took = await seconds(async () => {
    for (const part of parts) {
      const plan = planPart(song, part)
      const singing = { ...plan, channels: plan.channels.map(channel => (channel.id === 'beat' ? channel : { ...channel, spans })) }
      const range = { startFrame: 0, endFrame: STEM_SECONDS * SAMPLE_RATE_HZ }
      const result = await renderDelivery({ plan: singing, store, format: usualFormat('wav'), range })
      if (result.kind === 'delivered') sound += result.report.seconds
    }
  })
  console.log(`stems of ${LAYERS} layers and the beat: ${(sound / took).toFixed(1)} times real time in sum, on one core (goal 15 on two)`)
}
