/** Speed of the core, as ratios to real time or to a reference. */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { mixToMono, type Planar } from '../src/core/audio/frames'
import { analyseBeat } from '../src/core/beat/analyse'
import { measureLevel } from '../src/core/beat/level'
import { listen } from '../src/core/beat/listen'
import { findTempo } from '../src/core/beat/tempo'
import { bytesOf } from '../src/core/files/byte-source'
import { openSound } from '../src/core/files/decode'
import { importSound } from '../src/core/files/import-sound'
import { encodeSamples, encodeWavHeader } from '../src/core/files/wav'
import { planMix } from '../src/core/mix/plan'
import { joinPlanes, renderOffline } from '../src/core/mix/render-offline'
import { align } from '../src/core/align/align'
import { toScale } from '../src/core/tune/targets'
import { tune } from '../src/core/tune/tune'
import { TUNE_STEPS } from '../src/core/tune/tune-settings'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { readNotes } from '../src/core/voice/notes'
import type * as DemoModule from './demo'
import { encodeBeat } from './encode-beat'

const RUNS = 3
type Demo = typeof DemoModule

export async function measureCore(): Promise<void> {
  await measureBeat()
  // Made now and not before: the first figures need not wait for a song to be sung.
  const demo = await import('./demo')
  await measureVoice(demo)
}

async function measureBeat(): Promise<void> {
  const seconds = 180
  const mp3 = encodeBeat(seconds)
  if (mp3) {
    let decoded: Planar = []
    await report('decode and resample a 3-minute 44.1 kHz MP3', seconds, async () => {
      const pieces: Planar[] = []
      await importSound(await openSound(bytesOf(mp3.bytes)), planes => void pieces.push(planes))
      decoded = joinPlanes(pieces)
    })
    await report('the same by ffmpeg, for reference', seconds, () =>
      Promise.resolve(void execFileSync('ffmpeg', ['-v', 'error', '-i', mp3.path, '-ar', '48000', '-f', 'f32le', '-'], { maxBuffer: 1 << 28 })),
    )
    await report('analyse it: tempo, bars, key, chords, sections, level', seconds, () => Promise.resolve(void analyseBeat(decoded)))
    const fourTimes = decoded.map(plane => Float32Array.from({ length: 4 * plane.length }, (_, i) => plane[i % plane.length]))
    await report('  the same at four times the length', 4 * seconds, () => Promise.resolve(void analyseBeat(fourTimes)))
    await report('  of which features, tempo and bars', seconds, () => Promise.resolve(void findTempo(listen(mixToMono(decoded)))))
    await report('  of which level, loudness and true peak', seconds, () => Promise.resolve(void measureLevel(decoded)))
    if (spawnSync('aubio', ['--version']).status === 0)
      await report('  the tempo alone by aubio, for reference', seconds, () => Promise.resolve(void execFileSync('aubio', ['tempo', mp3.path])))
  } else console.log('decode and resample: skipped, ffmpeg is needed to make the MP3')
}

async function measureVoice({ demo, store }: Demo): Promise<void> {
  const voice = demo.assets[1].planes[0].subarray(0, 60 * 48_000).slice()
  await report('voice: pitch, phrases, onsets, breaths, esses, pops, clicks of a one-minute take', 60, () => Promise.resolve(void analyseVoice(voice)))
  const wav = writeVoice(voice)
  if (spawnSync('aubio', ['--version']).status === 0)
    await report('  its pitch alone by aubio yinfft at the same hop, for reference', 60, () =>
      Promise.resolve(void execFileSync('aubiopitch', ['-i', wav, '-p', 'yinfft', '-B', '2048', '-H', '240'], { maxBuffer: 1 << 28 })),
    )
  const heard = analyseVoice(voice)
  const notes = toScale(readNotes(heard), { key: { tonic: 'F', mode: 'minor' }, colour: null, tuningCents: 0 })
  const late = Float32Array.from(voice, (_, i) => voice[i - 1_440] ?? 0)
  await report('  brought to a lead 30 ms away, path and sound', 60, () => Promise.resolve(void align(late, voice, 1)))
  await report('  every note of it tuned hard', 60, () => Promise.resolve(void tune(voice, heard, notes, TUNE_STEPS.hard)))
  const plan = planMix(demo.song)
  await report('offline mix of the demo song', demo.song.beat.frames / 48_000, async () => void (await renderOffline({ plan, store, sink: () => {} })))
}

async function report(what: string, seconds: number, work: () => Promise<void>): Promise<void> {
  const times: number[] = []
  for (let run = 0; run < RUNS; run++) {
    const began = performance.now()
    await work()
    times.push((performance.now() - began) / 1_000)
  }
  times.sort((a, b) => a - b)
  console.log(`${what}: ${(seconds / times[RUNS >> 1]).toFixed(1)} times real time (median of ${RUNS}; ${times[RUNS >> 1].toFixed(2)} s)`)
}

function writeVoice(voice: Float32Array<ArrayBuffer>): string {
  const path = join(mkdtempSync(join(tmpdir(), 'plush-bench-')), 'voice.wav')
  writeFileSync(
    path,
    Buffer.concat([encodeWavHeader({ frames: voice.length, channels: 1, sampleRateHz: 48_000, encoding: 'pcm16' }), encodeSamples([voice], 'pcm16')]),
  )
  return path
}
