/** Reads each frame's pitch finely, by correlating the periods just before and just after its middle, and finds where voicing truly begins and ends. */
import { dotProduct } from '../audio/dot-product'
import type { Mono } from '../audio/frames'
import { HOP_SECONDS } from './hop'
import { predictionResidual } from './residual'

/** How far a reading may differ from the candidate, and the fine one from that. */
const EDGE_SEARCH_FRACTION = 0.035
const PITCH_SEARCH_FRACTION = 0.025
const LAG_SECONDS = 0.008
/** Short enough to see an edge; the pitch itself is read over a longer one. */
const EDGE_WINDOW_SECONDS = 0.018
const PITCH_WINDOW_SECONDS = 0.025
/** As far as a reading reaches to either side: half a window and half the longest lag. */
const NEAR_HOPS = 6
/** Neighbours whose mean is taken, on each side, where they lie on the same note. */
const SMOOTH_HOPS = 2
const SMOOTH_OCTAVES = 0.15
/** Where the residual repeats less than this (noise, a nearly pure tone) the voice itself is read. */
const LEAST_RESIDUAL_CLARITY = 0.3
/** Below this the frame is no pitch; at an edge the path is led on while it is above. */
const LEAST_CLARITY = 0.5
const EDGE_CLARITY = 0.75
const MAX_EDGE_HOPS = 8
/** A voice 5 dB under the noise repeats so much through it. */
const LEAST_WITNESSED = 0.24

/**
 * @param voice One channel at `sampleRateHz`, in which the pitch is read.
 * @param coarse The same at half that rate, in which edges are sought.
 * @param path A first reading for each hop, 0 for none.
 * @param witness The coarse voice with its noise, if the others are without: noise that was shaped by a voice beside it repeats only in them.
 * @returns the fine pitch, and how well the frame repeats at it (0..1).
 */
export function refinePitch(
  voice: Mono,
  coarse: Mono,
  sampleRateHz: number,
  path: Float32Array,
  power: Float32Array,
  leastPower: number,
  witness: Mono | null = null,
): { f0Hz: Float32Array<ArrayBuffer>; clarity: Float32Array<ArrayBuffer> } {
  const reader = new FineReader(coarse, sampleRateHz / 2, EDGE_WINDOW_SECONDS, EDGE_SEARCH_FRACTION)
  const raw = witness && new FineReader(witness, sampleRateHz / 2, EDGE_WINDOW_SECONDS, EDGE_SEARCH_FRACTION)
  const f0Hz = new Float32Array(path.length)
  const clarity = new Float32Array(path.length)
  const readInto = (frame: number, near: number, least: number): boolean => {
    if (power[frame] < leastPower) return false
    const { hz, correlation } = reader.read(Math.round((frame * HOP_SECONDS * sampleRateHz) / 2), near)
    if (correlation < least || (raw && raw.repeatsAt(Math.round((frame * HOP_SECONDS * sampleRateHz) / 2), hz) < LEAST_WITNESSED)) return false
    f0Hz[frame] = hz
    clarity[frame] = correlation
    return true
  }
  for (let frame = 0; frame < path.length; frame++) if (path[frame] > 0) readInto(frame, path[frame], LEAST_CLARITY)
  // The path's windows blur where voicing begins and ends; a short correlation sees it.
  for (let frame = 1; frame < path.length; frame++) {
    for (let step = 0; step < MAX_EDGE_HOPS && frame + step < path.length && f0Hz[frame - 1 + step] > 0 && f0Hz[frame + step] === 0; step++)
      if (!readInto(frame + step, f0Hz[frame - 1 + step], EDGE_CLARITY)) break
  }
  for (let frame = path.length - 2; frame >= 0; frame--) {
    for (let step = 0; step < MAX_EDGE_HOPS && frame - step >= 0 && f0Hz[frame + 1 - step] > 0 && f0Hz[frame - step] === 0; step++)
      if (!readInto(frame - step, f0Hz[frame + 1 - step], EDGE_CLARITY)) break
  }
  const isNearVoice = (seconds: number) => {
    const hop = Math.round(seconds / HOP_SECONDS)
    for (let i = Math.max(0, hop - NEAR_HOPS); i <= Math.min(f0Hz.length - 1, hop + NEAR_HOPS); i++) if (f0Hz[i] > 0) return true
    return false
  }
  const fine = new FineReader(smooth(predictionResidual(voice, sampleRateHz, isNearVoice)), sampleRateHz, PITCH_WINDOW_SECONDS, PITCH_SEARCH_FRACTION)
  for (let frame = 0; frame < path.length; frame++) {
    if (f0Hz[frame] === 0) continue
    const { hz, correlation } = fine.read(Math.round(frame * HOP_SECONDS * sampleRateHz), f0Hz[frame])
    if (correlation >= LEAST_RESIDUAL_CLARITY) f0Hz[frame] = hz
  }
  return { f0Hz: meanOfNeighbours(f0Hz), clarity }
}

function meanOfNeighbours(f0Hz: Float32Array): Float32Array<ArrayBuffer> {
  return Float32Array.from(f0Hz, (hz, frame) => {
    if (hz === 0) return 0
    let sum = 0
    let count = 0
    for (let k = Math.max(0, frame - SMOOTH_HOPS); k <= Math.min(f0Hz.length - 1, frame + SMOOTH_HOPS); k++) {
      const octaves = f0Hz[k] > 0 ? Math.log2(f0Hz[k] / hz) : Infinity
      if (Math.abs(octaves) >= SMOOTH_OCTAVES) continue
      sum += octaves
      count++
    }
    return hz * 2 ** (sum / count)
  })
}

class FineReader {
  private readonly correlations = new Float64Array(2 * MAX_REACH + 1)
  /** Sums of squares up to each sample. */
  private readonly energy: Float64Array

  private readonly voice: Float64Array

  constructor(
    voice: Mono,
    private readonly sampleRateHz: number,
    private readonly windowSeconds: number,
    private readonly searchFraction: number,
  ) {
    this.voice = Float64Array.from(voice)
    this.energy = new Float64Array(voice.length + 1)
    for (let i = 0; i < voice.length; i++) this.energy[i + 1] = this.energy[i] + voice[i] * voice[i]
  }

  /** Correlates two windows that lie evenly about `centre`, some whole periods apart. */
  read(centre: number, nearHz: number): { hz: number; correlation: number } {
    const { sampleRateHz, correlations } = this
    const periods = Math.max(1, Math.round(LAG_SECONDS * nearHz))
    const middle = (periods * sampleRateHz) / nearHz
    const reach = Math.min(MAX_REACH, Math.max(2, Math.ceil(this.searchFraction * middle)))
    const first = Math.max(2, Math.round(middle) - reach)
    const count = 2 * reach + 1
    // Every second lag, then those beside the best: the peak is wider than two.
    let best = 0
    for (let k = 0; k < count; k += 2) {
      correlations[k] = this.correlation(centre, first + k)
      if (correlations[k] > correlations[best]) best = k
    }
    const coarse = best
    for (let k = Math.max(0, coarse - 1); k <= Math.min(count - 1, coarse + 1); k += 2) {
      correlations[k] = this.correlation(centre, first + k)
      if (correlations[k] > correlations[best]) best = k
    }
    let shift = 0
    if (best > 0 && best < count - 1) {
      const bend = correlations[best - 1] - 2 * correlations[best] + correlations[best + 1]
      if (bend < 0) shift = (0.5 * (correlations[best - 1] - correlations[best + 1])) / bend
    }
    return { hz: (periods * sampleRateHz) / (first + best + shift), correlation: correlations[best] }
  }

  /** How well it repeats just there. */
  repeatsAt(centre: number, hz: number): number {
    const periods = Math.max(1, Math.round(LAG_SECONDS * hz))
    return this.correlation(centre, Math.max(2, Math.round((periods * this.sampleRateHz) / hz)))
  }

  private correlation(centre: number, lag: number): number {
    const { voice, energy } = this
    const window = Math.round(this.windowSeconds * this.sampleRateHz)
    const start = centre - ((window + lag) >> 1)
    const end = start + window
    if (start < 0 || end + lag > voice.length) return 0
    return dotProduct(voice, start, start + lag, window) / Math.sqrt((energy[end] - energy[start]) * (energy[end + lag] - energy[start + lag]) + 1e-16)
  }
}

const MAX_REACH = 120

/** A low-pass at about 3 kHz (two running means of four), so that breath does not blur the correlation. The delay is taken off. */
function smooth(voice: Mono): Mono {
  const smoothed = new Float32Array(voice.length)
  for (let i = 3; i < voice.length - 3; i++) {
    smoothed[i] = (voice[i - 3] + voice[i + 3] + 2 * (voice[i - 2] + voice[i + 2]) + 3 * (voice[i - 1] + voice[i + 1]) + 4 * voice[i]) / 16
  }
  return smoothed
}
