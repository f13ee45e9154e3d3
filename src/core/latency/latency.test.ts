import { describe, expect, test } from '@jest/globals'
import { gaussian, makeRandom } from '../audio/random'
import { Resampler } from '../audio/resample'
import type { Mono } from '../audio/frames'
import { makeDemoBeat } from '../rehearsal/demo-beat'
import { SimulatedInterface, USUAL_INTERFACE } from '../rehearsal/simulated-interface'
import { checkClaps } from './clap-check'
import { findClockJumps } from './clock-jumps'
import { readLeak } from './leak'
import { makeProbe, MAX_ROUND_TRIP_FRAMES, measureRoundTrip } from './round-trip'

const probe = makeProbe()

/** What comes in while the probe is sent: later by a fraction of a frame too, quieter, in noise. */
function heard({ delayFrames, gain, noise = 0, seed = 1 }: { delayFrames: number; gain: number; noise?: number; seed?: number }): Mono {
  const random = makeRandom(seed)
  const whole = Math.floor(delayFrames)
  const part = delayFrames - whole
  // A windowed sinc moves the sound between the frames.
  const taps = Array.from({ length: 33 }, (_, k) => {
    const x = k - 16 - part
    return (Math.abs(x) < 1e-9 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * (0.5 + 0.5 * Math.cos((Math.PI * x) / 17))
  })
  const captured = new Float32Array(probe.length + MAX_ROUND_TRIP_FRAMES)
  for (let i = 0; i < captured.length; i++) {
    let sum = 0
    if (i - whole + 16 >= 0 && i - whole - 16 < probe.length) for (let k = 0; k < 33; k++) sum += taps[k] * (probe[i - whole - (k - 16)] ?? 0)
    captured[i] = gain * sum + noise * gaussian(random)
  }
  return captured
}

describe('the round trip', () => {
  test.each([240, 1_105.3, 3_420.7, 9_000.5, 19_199.9])('of %d frames is found to a tenth of a frame', delayFrames => {
    const found = measureRoundTrip(heard({ delayFrames, gain: 0.3 }))
    expect(found).toMatchObject({ ok: true })
    if (found.ok) expect(Math.abs(found.roundTripFrames - delayFrames)).toBeLessThan(0.1)
  })
  test('is found within a frame in noise as loud as the sweeps, and with the polarity turned over', () => {
    const found = measureRoundTrip(heard({ delayFrames: 2_345, gain: -0.05, noise: 0.008 }))
    expect(found.ok && Math.abs(found.roundTripFrames - 2_345)).toBeLessThan(1)
  })
  test('is not guessed: silence, noise, an overloaded input and another sound say what they are', () => {
    expect(measureRoundTrip(new Float32Array(probe.length + MAX_ROUND_TRIP_FRAMES))).toMatchObject({ ok: false, reason: 'silent' })
    expect(measureRoundTrip(heard({ delayFrames: 1_000, gain: 0, noise: 0.1 }))).toMatchObject({ ok: false, reason: 'not-heard' })
    expect(measureRoundTrip(heard({ delayFrames: 1_000, gain: 0.0005, noise: 0.05 }))).toMatchObject({ ok: false, reason: 'not-heard' })
    expect(measureRoundTrip(heard({ delayFrames: 1_000, gain: 9 }).map(sample => Math.max(-1, Math.min(1, sample))))).toMatchObject({
      ok: false,
      reason: 'clipped',
    })
    const [beat] = makeDemoBeat()
    expect(measureRoundTrip(beat.slice(960_000, 960_000 + probe.length + MAX_ROUND_TRIP_FRAMES))).toMatchObject({ ok: false, reason: 'not-heard' })
  })
  test('that is another for every sweep is unsteady', () => {
    const captured = heard({ delayFrames: 1_000, gain: 0.3 })
    const later = heard({ delayFrames: 1_600, gain: 0.3 })
    captured.set(later.subarray(40_000), 40_000)
    expect(measureRoundTrip(captured)).toMatchObject({ ok: false, reason: 'unsteady' })
  })
  test('through the simulated interface is its own, whatever leaks and hums', () => {
    const simulated = new SimulatedInterface()
    simulated.set({ ...USUAL_INTERFACE, roundTripFrames: 7_777, leakDecibels: -20, noiseDbfs: -50, humDbfs: -50 })
    const captured = new Float32Array(probe.length + MAX_ROUND_TRIP_FRAMES)
    for (let frame = 0; frame + 128 <= captured.length; frame += 128) {
      const sent = Float32Array.from({ length: 128 }, (_, i) => probe[frame + i] ?? 0)
      simulated.send(frame, sent, sent)
      simulated.addInto(captured.subarray(frame, frame + 128), frame)
    }
    const found = measureRoundTrip(captured)
    expect(found.ok && Math.round(found.roundTripFrames)).toBe(7_777)
  })
})

describe('a beat that leaks into the microphone', () => {
  const [beat] = makeDemoBeat()
  const played = beat.slice(480_000, 480_000 + 20 * 48_000)
  const captured = (offFrames: number, leak: number) => {
    const random = makeRandom(4)
    return played.map((_, i) => leak * (played[i - offFrames] ?? 0) + 0.002 * gaussian(random))
  }
  test.each([-900, 0, 3_111])('shows a take that lies %d frames off', offFrames => {
    const reading = readLeak(played, captured(offFrames, 0.03))
    expect(reading).not.toBeNull()
    expect(Math.abs(reading!.offFrames - offFrames)).toBeLessThan(5)
    expect(reading!.confidence).toBeGreaterThan(0.6)
  })
  test('says nothing where nothing leaks', () => {
    expect(readLeak(played, captured(0, 0))).toBeNull()
  })
})

describe('clapping with the click', () => {
  const clicks = Array.from({ length: 8 }, (_, i) => 12_000 + i * 30_000)
  const clapped = (off: (i: number) => number) => {
    const random = makeRandom(9)
    const sound = Float32Array.from({ length: 260_000 }, () => 0.001 * gaussian(random))
    clicks.forEach((click, i) => {
      for (let k = 0; k < 2_400; k++) sound[click + Math.round(off(i) * 48) + k] += 0.5 * gaussian(random) * Math.exp(-k / 500)
    })
    return sound
  }
  test('tells a late system from an unsteady hand, to two milliseconds', () => {
    expect(
      checkClaps(
        clapped(() => -6),
        clicks,
      ),
    ).toMatchObject({ verdict: 'on-time' })
    const late = checkClaps(
      clapped(() => 62),
      clicks,
    )!
    expect(late.verdict).toBe('system')
    expect(Math.abs(late.meanMilliseconds - 62)).toBeLessThan(2)
    expect(
      checkClaps(
        clapped(i => [-60, 40, -20, 70, 0, -50, 55, -10][i]),
        clicks,
      ),
    ).toMatchObject({ verdict: 'singer' })
  })
  test('needs claps', () => {
    expect(checkClaps(new Float32Array(260_000), clicks)).toBeNull()
  })
})

describe('the audio clock against the machine’s', () => {
  /** Ten readings a second of a clock that moves in bursts of a buffer, read at uneven moments. */
  const readings = (rate: number, jumpAt: number, jumpFrames: number) => {
    const random = makeRandom(3)
    return Array.from({ length: 600 }, (_, i) => {
      const milliseconds = 100 * i + 12 * random()
      const exact = (milliseconds / 1_000) * rate + (milliseconds > jumpAt ? jumpFrames : 0)
      return { milliseconds, frames: Math.floor(exact / 512) * 512 }
    })
  }
  test('that drifts by 0.05 % over a minute has not leapt', () => {
    expect(findClockJumps(readings(48_024, Infinity, 0))).toEqual([])
    expect(findClockJumps(readings(47_976, Infinity, 0))).toEqual([])
  })
  test.each([1_024, -1_024, 4_800])('that leaps by %d frames has, there and by that much', jumpFrames => {
    const [jump, ...others] = findClockJumps(readings(48_003, 31_000, jumpFrames))
    expect(others).toEqual([])
    expect(Math.abs(jump.frames - jumpFrames)).toBeLessThan(400)
    expect(Math.abs(jump.atFrame - 31 * 48_000)).toBeLessThan(1.5 * 48_000)
  })
  test('a clock 0.05 % fast shifts what was sung by no more than it says: resampled drift is followed', () => {
    const resampler = new Resampler(48_000, 48_024, 1)
    const click = new Float32Array(96_000)
    click[90_000] = 1
    const [drifted] = resampler.push([click])
    let peak = 0
    for (let i = 0; i < drifted.length; i++) if (Math.abs(drifted[i]) > Math.abs(drifted[peak])) peak = i
    expect(Math.abs(peak - 90_045)).toBeLessThan(2)
  })
})
