/** The round trip, measured: sweeps are sent out and found again in what comes in. */
import { decibelsToGain, gainToDecibels, peakOf } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { median } from '../audio/statistics'
import { correlateAt, peakBetween } from './correlate'

const SWEEP_FRAMES = 5_760
const FROM_HZ = 300
const TO_HZ = 6_000
const FADE_FRAMES = 480
const LEVEL_DBFS = -12
/** Longest round trip that can be found. */
export const MAX_ROUND_TRIP_FRAMES = 0.45 * SAMPLE_RATE_HZ
const SWEEPS = 4
/** Far enough apart that the latest echo of one is over before the next; uneven, so that nothing regular in the room answers. */
const STARTS = Array.from({ length: SWEEPS }, (_, i) => 960 + i * 26_400 + [0, 311, 97, 523][i])

/** Four sweeps of 120 ms in 1.8 s. @see A. Farina, Simultaneous measurement of impulse response and distortion with a swept-sine technique, AES 108 (2000). */
export function makeProbe(): Mono {
  const probe = new Float32Array(STARTS[SWEEPS - 1] + SWEEP_FRAMES + 960)
  for (const start of STARTS) probe.set(SWEEP, start)
  return probe
}

const SWEEP: Mono = (() => {
  const seconds = SWEEP_FRAMES / SAMPLE_RATE_HZ
  const rate = seconds / Math.log(TO_HZ / FROM_HZ)
  return Float32Array.from({ length: SWEEP_FRAMES }, (_, i) => {
    const fade = Math.min(1, i / FADE_FRAMES, (SWEEP_FRAMES - i) / FADE_FRAMES)
    return (
      decibelsToGain(LEVEL_DBFS) * (0.5 - 0.5 * Math.cos(Math.PI * fade)) * Math.sin(2 * Math.PI * FROM_HZ * rate * (Math.exp(i / SAMPLE_RATE_HZ / rate) - 1))
    )
  })
})()

export type RoundTripMeasurement =
  | { ok: true; roundTripFrames: number; spreadFrames: number; correlation: number; levelDbfs: number }
  /**
   * silent: nothing came in. not-heard: something came in, but not the sweeps. clipped: too loud to time. unsteady: the sweeps came
   * back at different delays.
   */
  | { ok: false; reason: 'silent' | 'not-heard' | 'clipped' | 'unsteady'; levelDbfs: number }

/** A sweep that fills this share of what came in while it should have (in amplitude) is heard; noise alone reaches 0.1. */
const LEAST_CORRELATION = 0.3
const LEAST_HEARD = 3
const MOST_SPREAD_FRAMES = 48
/** An earlier arrival that is nearly as strong is the sound itself, the later one its echo. */
const FIRST_ARRIVAL = 0.7

/**
 * @param captured What came in from the frame on at which the probe was sent, one channel at 48 kHz; as long as the probe plus MAX_ROUND_TRIP_FRAMES.
 * @returns frames as a fraction; it never guesses: sweeps that are not clearly there, or do not agree within 1 ms, give no number.
 */
export function measureRoundTrip(captured: Mono): RoundTripMeasurement {
  const peak = peakOf(captured)
  const levelDbfs = gainToDecibels(peak)
  if (peak < 1e-5) return { ok: false, reason: 'silent', levelDbfs }
  const found = STARTS.map(start => findSweep(captured.subarray(start, start + SWEEP_FRAMES + MAX_ROUND_TRIP_FRAMES)))
  const heard = found.filter(({ correlation }) => correlation >= LEAST_CORRELATION)
  if (heard.length < LEAST_HEARD) return { ok: false, reason: 'not-heard', levelDbfs }
  if (peak >= 0.9999) return { ok: false, reason: 'clipped', levelDbfs }
  const roundTripFrames = median(heard.map(({ lag }) => lag))
  const offs = heard.map(({ lag }) => Math.abs(lag - roundTripFrames)).sort((a, b) => a - b)
  // One sweep may have fallen into a hiccup of the machine; the others must agree.
  const spreadFrames = offs[LEAST_HEARD - 1]
  if (spreadFrames > MOST_SPREAD_FRAMES) return { ok: false, reason: 'unsteady', levelDbfs }
  return { ok: true, roundTripFrames, spreadFrames, correlation: median(heard.map(({ correlation }) => correlation)), levelDbfs }
}

function findSweep(stretch: Float32Array): { lag: number; correlation: number } {
  const maxLag = stretch.length - SWEEP_FRAMES
  const sums = correlateAt(stretch, SWEEP, maxLag).map(Math.abs)
  let best = 0
  for (let lag = 1; lag < sums.length; lag++) if (sums[lag] > sums[best]) best = lag
  let first = best
  for (let lag = 1; lag < best; lag++) {
    if (sums[lag] >= FIRST_ARRIVAL * sums[best] && sums[lag] >= sums[lag - 1] && sums[lag] > sums[lag + 1] && best - lag > 24) {
      first = lag
      break
    }
  }
  let energy = 0
  for (let i = first; i < first + SWEEP_FRAMES; i++) energy += stretch[i] * stretch[i]
  return { lag: peakBetween(sums, first), correlation: sums[first] / Math.sqrt(energy * SWEEP_ENERGY + 1e-20) }
}

const SWEEP_ENERGY = SWEEP.reduce((sum, sample) => sum + sample * sample, 0)
