/** What is told of a finished sound, beside what another meter says of it; and how it begins and ends. */
import { describe, expect, test } from '@jest/globals'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { decibelsToGain } from '../audio/decibels'
import { makeRandom } from '../audio/random'
import { sine } from '../audio/signals.test-kit'
import type { Planar } from '../audio/frames'
import { hasDecoders, measuredByFfmpeg } from '../files/other-decoders.test-kit'
import { LoudnessMeter } from '../loudness/loudness'
import { shaped } from './delivery-shape'
import { makeEncoder } from './encoders'
import { SoundCheck } from './sound-check'
import { warningsOf } from './warnings'

const SECOND = 48_000
const tone = (seconds: number, dbfs: number, hz = 997) => sine({ hz, frames: seconds * SECOND, amplitude: decibelsToGain(dbfs) })
const joined = (...pieces: Float32Array[]) => Float32Array.from(pieces.flatMap(piece => [...piece]))

const tested = hasDecoders ? test : test.skip
tested.each([
  ['loud and soft, in turn', joined(tone(20, -20), tone(20, -30))],
  ['three levels', joined(tone(15, -20), tone(15, -35), tone(15, -20), tone(15, -50))],
  ['shorter than three seconds', tone(2, -20)],
])('the range of a sound is what ffmpeg’s meter says: %s', async (_, plane) => {
  const meter = new LoudnessMeter(2)
  meter.push([plane, plane])
  const encoder = await makeEncoder({ kind: 'wav', bits: 32, sampleRateHz: 48_000 })
  await encoder.push([plane, plane])
  const path = join(mkdtempSync(join(tmpdir(), 'range-')), 'a.wav')
  writeFileSync(path, Buffer.concat(await encoder.finish()))
  expect(Math.abs(meter.readShape().rangeLu - measuredByFfmpeg(path).rangeLu)).toBeLessThan(0.3)
})

test('the loudest three seconds are those, wherever they lie', () => {
  const plane = joined(tone(5, -40), tone(4, -20), tone(5, -40))
  const meter = new LoudnessMeter(2)
  for (let at = 0; at < plane.length; at += 10_001) meter.push([plane.subarray(at, at + 10_001), plane.subarray(at, at + 10_001)])
  expect(Math.abs(meter.readShape().shortTermMaxLufs - -20)).toBeLessThan(0.1)
})

describe('of a sound it is told', () => {
  const facts = (...planes: Planar[]) => {
    const check = new SoundCheck()
    for (const plane of planes) check.push(plane)
    return check.read()
  }
  const noise = (seed: number) => {
    const random = makeRandom(seed)
    return Float32Array.from({ length: 4 * SECOND }, () => random() - 0.5)
  }

  test('what one loudspeaker loses: nothing of the middle, 3 dB of strangers, all of opposites', () => {
    const one = noise(1)
    expect(facts([one, one])).toMatchObject({ monoLossDecibels: 0, correlation: expect.closeTo(1, 6) })
    expect(facts([one, noise(2)]).monoLossDecibels).toBeCloseTo(-3, 1)
    expect(facts([one, noise(2)]).correlation).toBeCloseTo(0, 1)
    expect(facts([one, one.map(x => -x)])).toMatchObject({ monoLossDecibels: -60, correlation: expect.closeTo(-1, 6) })
  })

  test('how many samples are clipped, and how far it leans, over all pieces', () => {
    const leaning = noise(3).map(x => x + 0.02)
    const clipped = new Float32Array(10).fill(1)
    const told = facts([leaning, leaning], [clipped, clipped.map(x => -x)])
    expect(told.clippedSamples).toBe(20)
    expect(told.dcOffset).toBeCloseTo(0.02, 2)
    expect(facts([new Float32Array(100), new Float32Array(100)])).toEqual({ clippedSamples: 0, dcOffset: 0, monoLossDecibels: 0, correlation: 1 })
  })
})

test('a file is warned of where it will be turned down, clips, leans or cancels, and only there', () => {
  const good = {
    loudness: { integratedLufs: -14.4, samplePeakDbfs: -1, truePeakDbtp: -1 },
    encoded: null,
    clippedSamples: 0,
    dcOffset: 1e-4,
    monoLossDecibels: -2,
  }
  expect(warningsOf(good)).toEqual([])
  const bad = {
    loudness: { ...good.loudness, integratedLufs: -9 },
    encoded: { integratedLufs: -9, truePeakDbtp: 0.62 },
    clippedSamples: 3,
    dcOffset: 0.012,
    monoLossDecibels: -14,
  }
  expect(warningsOf(bad)).toEqual([
    expect.stringMatching(/turn it down by about 5 dB/),
    expect.stringMatching(/^3 samples are clipped/),
    expect.stringMatching(/reach 0\.6 dB over full scale .* aim 0\.8 dB lower/),
    expect.stringMatching(/1\.2 %/),
    expect.stringMatching(/loses 14 dB/),
  ])
})

describe('a delivery', () => {
  const pieces = () => [new Float32Array(SECOND), tone(1, -6), tone(1, -6)].map(plane => [plane.slice(), plane.slice()])
  const whole = (shape: Parameters<typeof shaped>[1]) => {
    const out = shaped(pieces(), shape)
    return joined(...out.map(([left]) => left))
  }
  const plain = { fromFirstSound: false, fadeInSeconds: 0, fadeOutSeconds: 0 }

  test('begins with its first sound where that is asked for, a hundredth of a second before it', () => {
    expect(whole(plain)).toHaveLength(3 * SECOND)
    const cut = whole({ ...plain, fromFirstSound: true })
    expect(2 * SECOND + 480 - cut.length).toBeLessThan(10)
    expect(cut.length - 2 * SECOND).toBeLessThanOrEqual(480)
    expect(cut.findIndex(x => Math.abs(x) > 1e-3)).toBe(480)
  })

  test('fades in and out in a straight line, and is as long as it was', () => {
    const faded = whole({ ...plain, fromFirstSound: true, fadeInSeconds: 0.5, fadeOutSeconds: 1 })
    const before = whole({ ...plain, fromFirstSound: true })
    expect(faded).toHaveLength(before.length)
    const share = (at: number) => Math.max(...faded.subarray(at, at + 100).map(Math.abs)) / Math.max(...before.subarray(at, at + 100).map(Math.abs))
    expect(share(12_000)).toBeCloseTo(0.5, 1)
    expect(share(30_000)).toBe(1)
    expect(share(before.length - 24_000)).toBeCloseTo(0.5, 1)
    expect(faded.at(-1)).toBeCloseTo(0, 9)
  })

  test('of silence, or shorter than its fades, is still as long as it was', () => {
    const silent = [[new Float32Array(100), new Float32Array(100)]]
    expect(shaped(silent, { fromFirstSound: true, fadeInSeconds: 30, fadeOutSeconds: 30 })[0][0]).toHaveLength(100)
  })
})
