/** What a voice sounds like from moment to moment, in numbers that hold across voices and parts: how its broad spectrum stands and changes. */
import FFT from 'fft.js'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'

const HOP_FRAMES = 240
export const HOPS_A_SECOND = SAMPLE_RATE_HZ / HOP_FRAMES
const WINDOW_FRAMES = 960
const SIZE = 1_024
/** Broad enough that single harmonics, which move with the pitch, do not show. */
const BANDS = 22
const LOW_HZ = 120
const HIGH_HZ = 9_000
/** What lies further than this under what sounds within half a second is not told apart from silence. */
const FLOOR_SHARE = 3e-4
const NEAR_HOPS = 0.5 * HOPS_A_SECOND
/** In a rest, what is near is no softer than this against the whole. */
const LEAST_NEAR_SHARE = 0.02
/** A band's rise over so many hops says where something begins. */
const RISE_HOPS = 3
const RISE_WEIGHT = 0.7
/** How much of its own mean is taken off a frame: two voices are seldom as loud. */
const LEVEL_TAKEN = 0.5

/** `values[hop * dims + d]`; hop h is centred on h hops. */
export interface Features {
  hops: number
  dims: number
  values: Float32Array<ArrayBuffer>
}

/** @param voice One channel at 48 kHz. */
export function featuresOf(voice: Mono): Features {
  const hops = Math.floor(voice.length / HOP_FRAMES) + 1
  const logs = logBands(voice, hops)
  evenOut(logs, hops)
  const dims = 2 * BANDS
  const values = new Float32Array(hops * dims)
  for (let hop = 0; hop < hops; hop++) {
    let mean = 0
    for (let b = 0; b < BANDS; b++) mean += logs[hop * BANDS + b] / BANDS
    const before = Math.max(0, hop - RISE_HOPS)
    for (let b = 0; b < BANDS; b++) {
      const value = logs[hop * BANDS + b]
      values[hop * dims + b] = value - LEVEL_TAKEN * mean
      values[hop * dims + BANDS + b] = RISE_WEIGHT * Math.max(0, value - logs[before * BANDS + b])
    }
  }
  return { hops, dims, values }
}

/** Mel bands: O'Shaughnessy's scale. */
function logBands(voice: Mono, hops: number): Float32Array {
  const fft = new FFT(SIZE)
  const window = Float64Array.from({ length: WINDOW_FRAMES }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / WINDOW_FRAMES))
  const filters = melFilters()
  const block = new Float64Array(SIZE)
  const spectrum = new Float64Array(2 * SIZE)
  const logs = new Float32Array(hops * BANDS)
  for (let hop = 0; hop < hops; hop++) {
    const start = hop * HOP_FRAMES - WINDOW_FRAMES / 2
    for (let i = 0; i < WINDOW_FRAMES; i++) block[i] = window[i] * (voice[start + i] ?? 0)
    fft.realTransform(spectrum, block)
    for (let b = 0; b < BANDS; b++) {
      const { from, weights } = filters[b]
      let sum = 0
      for (let k = 0; k < weights.length; k++) sum += weights[k] * (spectrum[2 * (from + k)] ** 2 + spectrum[2 * (from + k) + 1] ** 2)
      logs[hop * BANDS + b] = sum
    }
  }
  const floors = floorsOf(logs, hops)
  return logs.map((value, i) => Math.log(1 + value / floors[Math.floor(i / BANDS)]))
}

/** By hop: so far under what sounds around it, that a louder line beside this one hides nothing of it. */
function floorsOf(powers: Float32Array, hops: number): Float64Array {
  const sums = new Float64Array(hops + 1)
  for (let hop = 0; hop < hops; hop++) {
    let sum = 0
    for (let b = 0; b < BANDS; b++) sum += powers[hop * BANDS + b] / BANDS
    sums[hop + 1] = sums[hop] + sum
  }
  const mean = sums[hops] / Math.max(1, hops)
  return Float64Array.from({ length: hops }, (_, hop) => {
    const [from, to] = [Math.max(0, hop - NEAR_HOPS), Math.min(hops, hop + NEAR_HOPS)]
    return FLOOR_SHARE * Math.max((sums[to] - sums[from]) / (to - from), LEAST_NEAR_SHARE * mean) + 1e-12
  })
}

function melFilters(): { from: number; weights: Float64Array }[] {
  const mel = (hz: number) => 2_595 * Math.log10(1 + hz / 700)
  const edges = Array.from({ length: BANDS + 2 }, (_, i) => mel(LOW_HZ) + (i / (BANDS + 1)) * (mel(HIGH_HZ) - mel(LOW_HZ)))
  return Array.from({ length: BANDS }, (_, b) => {
    const weightAt = (bin: number) => {
      const at = mel((bin * SAMPLE_RATE_HZ) / SIZE)
      return Math.max(0, Math.min((at - edges[b]) / (edges[b + 1] - edges[b]), (edges[b + 2] - at) / (edges[b + 2] - edges[b + 1])))
    }
    const bins = Array.from({ length: SIZE / 2 }, (_, bin) => bin).filter(bin => weightAt(bin) > 0)
    const weights = Float64Array.from(bins, weightAt)
    const sum = weights.reduce((total, weight) => total + weight, 0)
    return { from: bins[0], weights: weights.map(weight => weight / sum) }
  })
}

/** Every band as high as the others where the voice sounds: another microphone or another throat is no other syllable. Changed in place. */
function evenOut(logs: Float32Array, hops: number): void {
  const means = new Float64Array(BANDS)
  let sounding = 0
  let all = 0
  for (let hop = 0; hop < hops; hop++) {
    let mean = 0
    for (let b = 0; b < BANDS; b++) mean += logs[hop * BANDS + b] / BANDS
    if (mean < 1) continue
    sounding++
    for (let b = 0; b < BANDS; b++) means[b] += logs[hop * BANDS + b]
    all += mean
  }
  if (sounding === 0) return
  const mean = all / sounding
  for (let b = 0; b < BANDS; b++) means[b] = mean / Math.max(0.2 * mean, means[b] / sounding)
  for (let hop = 0; hop < hops; hop++) for (let b = 0; b < BANDS; b++) logs[hop * BANDS + b] *= means[b]
}
