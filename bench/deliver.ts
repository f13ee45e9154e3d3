/** Encoders as multiples of real time, beside ffmpeg's own; and stems of a full song. */
import { execFile, execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { registerNodeEncoders } from '../cli/node-encoders'
import { SAMPLE_RATE_HZ, type Planar } from '../src/core/audio/frames'
import { makeEncoder, usualFormat, type DeliveryFormat } from '../src/core/deliver/encoders'
import { demo, planesOf } from './demo'
import type { StemsTook } from './stems'

const SECONDS = 60
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

/** As the app makes them: some at once, each in a worker of its own; here in a process. */
async function measureStems(): Promise<void> {
  for (const atOnce of [1, 2]) {
    const shares = await Promise.all(Array.from({ length: atOnce }, (_, k) => stems(k, atOnce)))
    const sound = shares.reduce((sum, share) => sum + share.soundSeconds, 0)
    const took = Math.max(...shares.map(share => share.tookSeconds))
    console.log(`stems of 12 layers and the beat, ${atOnce} at once: ${(sound / took).toFixed(1)} times real time in sum${atOnce === 2 ? ' (goal 15)' : ''}`)
  }
}

async function stems(share: number, of: number): Promise<StemsTook> {
  const { stdout } = await promisify(execFile)('npx', ['tsx', 'bench/stems.ts', String(share), String(of)])
  return JSON.parse(stdout) as StemsTook
}
