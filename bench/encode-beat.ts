/** The demo beat as a stereo MP3 of any length, made by ffmpeg. */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Planar } from '../src/core/audio/frames'
import { encodeSamples, encodeWavHeader } from '../src/core/files/wav'
import { makeDemoBeat } from '../src/core/rehearsal/demo-beat'

/** @returns null where there is no ffmpeg. */
export function encodeBeat(seconds: number): { path: string; bytes: Uint8Array } | null {
  if (spawnSync('ffmpeg', ['-version']).status !== 0) return null
  const planes = makeDemoBeat().map(plane => Float32Array.from({ length: seconds * 48_000 }, (_, i) => plane[i % plane.length]!)) as Planar
  const folder = mkdtempSync(join(tmpdir(), 'plush-bench-'))
  const [wav, mp3] = [join(folder, 'beat.wav'), join(folder, 'beat.mp3')]
  writeFileSync(
    wav,
    Buffer.concat([encodeWavHeader({ frames: planes[0]!.length, channels: 2, sampleRateHz: 48_000, encoding: 'pcm16' }), encodeSamples(planes, 'pcm16')]),
  )
  execFileSync('ffmpeg', ['-v', 'error', '-i', wav, '-ar', '44100', '-b:a', '256k', mp3])
  return { path: mp3, bytes: readFileSync(mp3) }
}
