import { describe, expect, test } from '@jest/globals'
import { rmsOf } from '../audio/decibels'
import { makeRandom } from '../audio/random'
import { sine } from '../audio/signals.test-kit'
import { findHum } from '../voice/hum'
import { SimulatedInterface, USUAL_INTERFACE, type InterfaceSettings } from './simulated-interface'

const BLOCK = 128
const QUIET: InterfaceSettings = { roundTripFrames: 1_105, leakDecibels: -100, noiseDbfs: -120, humDbfs: -120 }

/** What comes in while a sound is sent out, block by block as the audio thread does. */
function through(settings: InterfaceSettings, left: Float32Array, right = left, firstFrame = 0): Float32Array {
  const simulated = new SimulatedInterface()
  simulated.set(settings)
  const heard = new Float32Array(left.length)
  for (let at = 0; at < left.length; at += BLOCK) {
    simulated.addInto(heard.subarray(at, at + BLOCK), firstFrame + at)
    simulated.send(firstFrame + at, left.subarray(at, at + BLOCK), right.subarray(at, at + BLOCK))
  }
  return heard
}
const random = makeRandom(4)
const noise = Float32Array.from({ length: 48_000 }, () => 0.2 * (2 * random() - 1))

describe('the simulated interface', () => {
  test('in a quiet room with closed headphones nothing comes in at all', () => {
    expect(through(QUIET, noise).every(sample => sample === 0)).toBe(true)
  })

  test.each([240, 1_105, 4_800, 19_200])('what leaks from the headphones comes back %d frames late, to the frame', roundTripFrames => {
    const heard = through({ ...QUIET, roundTripFrames, leakDecibels: 0 }, noise)
    expect(heard.subarray(0, roundTripFrames).every(sample => sample === 0)).toBe(true)
    const alike = (lag: number) => noise.subarray(4_800, 14_400).reduce((sum, x, i) => sum + x * (heard[4_800 + i + lag] ?? 0), 0)
    const around = Array.from({ length: 41 }, (_, i) => alike(roundTripFrames - 20 + i))
    expect(around.indexOf(Math.max(...around))).toBe(20)
  })

  test('as loud as it leaks, in decibels; one side alone leaks half as much; it rings at one frequency by 6 dB', () => {
    const level = (hz: number, settings: InterfaceSettings, right?: Float32Array) => {
      const tone = sine({ hz, frames: 48_000, amplitude: 0.5 })
      return 20 * Math.log10(rmsOf(through(settings, tone, right), 24_000) / rmsOf(tone))
    }
    expect(level(200, { ...QUIET, leakDecibels: -20 })).toBeCloseTo(-20, 0)
    expect(level(200, { ...QUIET, leakDecibels: -40 }) - level(200, { ...QUIET, leakDecibels: -20 })).toBeCloseTo(-20, 3)
    expect(level(200, { ...QUIET, leakDecibels: -20 }, new Float32Array(48_000))).toBeCloseTo(-26, 0)
    expect(level(1_150, { ...QUIET, leakDecibels: -20 })).toBeCloseTo(-14, 0)
  })

  test.each([-84, -60, -40])('the room’s noise has the level that was set, %d dBFS', noiseDbfs => {
    expect(20 * Math.log10(rmsOf(through({ ...QUIET, noiseDbfs }, new Float32Array(96_000))))).toBeCloseTo(noiseDbfs, 0)
  })

  test.each([-70, -50])('its hum is heard as 50 Hz at %d dBFS', humDbfs => {
    const hum = findHum(through({ ...QUIET, humDbfs }, new Float32Array(96_000)))
    expect(hum?.mainsHz).toBe(50)
    expect(Math.abs(hum!.levelDbfs - humDbfs)).toBeLessThan(1)
  })

  test('frames that were never sent, as when the clock leaps, are silence and no old sound', () => {
    const simulated = new SimulatedInterface()
    simulated.set({ ...QUIET, roundTripFrames: 256, leakDecibels: 0 })
    const loud = new Float32Array(BLOCK).fill(0.5)
    for (let at = 0; at < 40_000; at += BLOCK) simulated.send(at, loud, loud)
    // 60 000 frames were passed over.
    simulated.send(100_096, loud, loud)
    const [silent, again] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
    simulated.addInto(silent, 100_096)
    simulated.addInto(again, 100_352)
    expect(Math.max(...silent.map(Math.abs))).toBe(0)
    expect(Math.max(...again.map(Math.abs))).toBeGreaterThan(0.4)
  })

  test('is usually a quiet room with a round trip of 23 ms', () => {
    expect(Math.round(USUAL_INTERFACE.roundTripFrames / 48)).toBe(23)
    expect(rmsOf(through(USUAL_INTERFACE, noise))).toBeLessThan(1e-4)
  })
})
