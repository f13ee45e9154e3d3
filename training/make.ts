/**
 * `tsx training/make.ts FROM TO FOLDER [plain]`: composes beats FROM..TO-1, renders them (kept as FOLDER/SEED.raw; `plain`
 * by our own synthesis, else by FluidSynth) and writes what
 * the analysis reads in each, with which of its readings are right: FOLDER/SEED.json and FOLDER/SEED.f32.
 */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { makeRandom } from '../src/core/audio/random'
import type { Mono } from '../src/core/audio/frames'
import { FEATURE_RATE_HZ } from '../src/core/beat/features'
import { METERS, type Hypothesis } from '../src/core/beat/hypotheses'
import { listen } from '../src/core/beat/listen'
import { keyEvidence } from '../src/core/beat/key-evidence'
import { compose, type Composition, type Truth } from './compose'
import { masterSound, render } from './render'
import { playPlainly } from './synth'

const [from, to, folder] = [Number(process.argv[2]), Number(process.argv[3]), process.argv[4]]
mkdirSync(folder, { recursive: true })
for (let seed = from; seed < to; seed++) {
  const composition = compose(seed)
  const sound = rendered(composition, seed)
  const heard = listen(sound)
  const right = heard.readings.map(reading => isRight(reading, heard.toSeconds, composition.truth))
  const fours = heard.readings.map((reading, i) => ({ reading, i })).filter(({ reading }) => reading.meter !== 3)
  const threes = heard.readings.map((reading, i) => ({ reading, i })).filter(({ reading }) => reading.meter === 3)
  const ordered = [...fours, ...threes]
  const keys = keyEvidence(heard.features.pitches, null)
  writeFileSync(
    join(folder, `${seed}.f32`),
    Buffer.concat([...ordered.map(({ reading }) => reading.evidence), ...keys].map(values => Buffer.from(values.buffer, values.byteOffset, values.byteLength))),
  )
  const tempoFound = heard.readings.some(reading => Math.abs(reading.tempoBpm / composition.truth.tempoBpm - 1) < 0.01)
  writeFileSync(
    join(folder, `${seed}.json`),
    JSON.stringify({
      seed,
      truth: { ...composition.truth, beats: undefined },
      fours: fours.length,
      threes: threes.length,
      keys: keys.length,
      keyInputs: keys[0].length,
      tempoFound,
      drift: heard.drift,
      tuning: heard.features.pitches.tuningCents,
      tonality: heard.features.pitches.tonality,
      readings: ordered.map(({ reading, i }) => ({
        bpm: reading.tempoBpm,
        meter: reading.meter,
        bar: reading.barOneHop,
        right: right[i].right,
        phase: right[i].phaseMs,
      })),
    }),
  )
  if (seed % 20 === 0)
    console.log(seed, composition.truth.style, composition.truth.tempoBpm.toFixed(2), tempoFound, right.filter(one => one.right).length, heard.readings.length)
}

function rendered(composition: Composition, seed: number): Mono {
  const path = join(folder, `${seed}.raw`)
  if (existsSync(path)) {
    const bytes = readFileSync(path)
    const values = new Int16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1)
    return Float32Array.from(values, value => value / 32_768)
  }
  const sound = process.argv[5] === 'plain' ? masterSound(playPlainly(composition, seed), composition, makeRandom(seed)) : render(composition, seed)
  const values = Int16Array.from(sound, x => Math.max(-32_768, Math.min(32_767, Math.round(x * 32_768))))
  writeFileSync(path, Buffer.from(values.buffer))
  return Float32Array.from(values, value => value / 32_768)
}

/** Right tempo, metre and bar one: near a true bar one at a quarter, the middle and three quarters of the file. */
function isRight(reading: Hypothesis, toSeconds: (hop: number) => number, truth: Truth): { right: boolean; phaseMs: number } {
  const { beatsPerBar, meter } = METERS[reading.meter]
  if (meter[0] !== truth.meter[0] || meter[1] !== truth.meter[1] || Math.abs(reading.tempoBpm / truth.tempoBpm - 1) > 0.01) return { right: false, phaseMs: 0 }
  const bar = (beatsPerBar * 60 * FEATURE_RATE_HZ) / reading.tempoBpm
  const downbeats = truth.beats.filter((_, i) => (i - truth.firstDownbeatIndex) % beatsPerBar === 0)
  let worst = 0
  let sum = 0
  for (const part of [0.25, 0.5, 0.75]) {
    const target = downbeats[Math.floor(downbeats.length * part)]
    let nearest = Infinity
    for (let hop = reading.barOneHop; toSeconds(hop) < target + 10; hop += bar)
      if (Math.abs(toSeconds(hop) - target) < Math.abs(nearest)) nearest = toSeconds(hop) - target
    worst = Math.max(worst, Math.abs(nearest))
    sum += nearest / 3
  }
  return { right: worst < Math.min(0.06, 7 / truth.tempoBpm), phaseMs: sum * 1_000 }
}
