/** A voice at another pitch or time, made of its own pulses: formants stay, and whatever is not changed stays to the bit. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { findPulses, type PitchByHop, type PulseRun } from './pulses'
import { soundingAt, sungAt, type TimeMap } from './time-map'

export interface Resynthesis {
  /** Of the voice. */
  pitch: PitchByHop
  /** By how much a frame of the voice is to be higher. */
  centsAt: (frame: number) => number
  time: TimeMap
  /** How much higher its formants are to lie, whatever the pitch does; 0 if it is not said. */
  throatSemitones?: number
}

/** A piece of the voice round `source`, to be laid round `centre`. */
interface Grain {
  centre: number
  source: number
  /** Of the voice there; null where it has none. */
  period: number | null
  gain: number
}

/**
 * How far a grain reaches where pulses are thinned out: a voice rings on between them. Further, the pulses beside its own would be heard; less far,
 * an octave down is a row of clicks.
 */
const MOST_REACH_PERIODS = 1.25

/** How densely grains without a pitch lie. */
const NOISE_HOP_FRAMES = 240
/** Nearer to the first pulse, what lies before it would give way within less than a millisecond: a click. */
const LEAST_APART_FRAMES = 48
/** Within so much a place is the place. */
const EXACT_FRAMES = 1e-4
/** After a change, pulses are led back to where they were sung within this time. */
const RETURN_FRAMES = 0.4 * SAMPLE_RATE_HZ
/** What lies further than this behind the last change is as it was. */
export const SETTLED_FRAMES = RETURN_FRAMES + 0.1 * SAMPLE_RATE_HZ

/**
 * Time-domain pitch-synchronous overlap-add. Where there is no pitch, pieces of fixed length are laid instead.
 * @param voice One channel at 48 kHz; not changed.
 * @returns as many frames.
 * @see E. Moulines and F. Charpentier, Pitch-synchronous waveform processing techniques for text-to-speech synthesis using diphones,
 *   Speech Communication 9 (1990).
 */
export function resynthesise(voice: Mono, { pitch, centsAt, time, throatSemitones = 0 }: Resynthesis): Mono {
  const throat = 2 ** (throatSemitones / 12)
  const grains = layGrains(voice.length, findPulses(voice, pitch, SAMPLE_RATE_HZ), centsAt, time)
  const sum = new Float64Array(voice.length)
  /** Where a grain lies that is not where it was sung. */
  const changed = new Uint8Array(voice.length)
  grains.forEach((grain, g) => addGrain(sum, changed, voice, grain, grains[g - 1], grains[g + 1], throat))
  return voice.map((sample, i) => (changed[i] ? sum[i] : sample))
}

function layGrains(frames: number, runs: readonly PulseRun[], centsAt: (frame: number) => number, time: TimeMap): Grain[] {
  const grains: Grain[] = []
  let centre = 0
  for (const run of runs) {
    const first = soundingAt(time, run[0])
    for (; centre <= first - LEAST_APART_FRAMES; centre += NOISE_HOP_FRAMES) grains.push(noiseGrain(centre, time))
    while (grains.length > 0 && grains[grains.length - 1].centre > first - LEAST_APART_FRAMES) grains.pop()
    centre = layPulses(grains, first, run, centsAt, time)
  }
  for (; centre < frames; centre += NOISE_HOP_FRAMES) grains.push(noiseGrain(centre, time))
  return grains
}

function noiseGrain(centre: number, time: TimeMap): Grain {
  // A whole number of frames away: the piece is copied, not read between its samples.
  return { centre, source: centre + Math.round(sungAt(time, centre) - centre), period: null, gain: 1 }
}

/** @returns where the next grain may lie. */
function layPulses(grains: Grain[], start: number, run: PulseRun, centsAt: (frame: number) => number, time: TimeMap): number {
  let centre = start
  let k = 0
  for (;;) {
    const sung = sungAt(time, centre)
    while (k + 1 < run.length && Math.abs(run[k + 1] - sung) <= Math.abs(run[k] - sung)) k++
    const period = k + 1 < run.length ? run[k + 1] - run[k] : run[k] - run[k - 1]
    const ratio = 2 ** (centsAt(run[k]) / 1_200)
    grains.push({ centre, source: run[k], period, gain: 1 / Math.sqrt(ratio) })
    if (k + 1 >= run.length) return centre + Math.min(period, NOISE_HOP_FRAMES)
    const [here, next] = [soundingAt(time, run[k]), soundingAt(time, run[k + 1])]
    const isStretched = Math.abs(next - here - period) > EXACT_FRAMES
    if (ratio !== 1 || isStretched) centre += period / ratio
    else {
      // Nothing is changed here any more: what is left of a change before is made up for bit by bit.
      const late = centre - here
      const most = (period * period) / (2 * RETURN_FRAMES)
      centre = Math.abs(late) <= most ? next : next + late - Math.sign(late) * most
    }
    if (sungAt(time, centre) > run[run.length - 1] + period / 2) return centre
  }
}

/** Half a Hann window to each neighbour: those of two grains add up to one, unless pulses are thinned out and pauses come to lie between. */
function addGrain(
  sum: Float64Array,
  changed: Uint8Array,
  voice: Mono,
  grain: Grain,
  before: Grain | undefined,
  after: Grain | undefined,
  throat: number,
): void {
  const { centre, source, gain } = grain
  // What has no pitch has no throat of its own either.
  const isScaled = throat !== 1 && grain.period !== null
  const left = reach(grain, before)
  const right = reach(grain, after)
  const shift = source - centre
  const isExact = !isScaled && Math.abs(shift) <= EXACT_FRAMES && gain === 1
  const whole = Math.floor(shift + EXACT_FRAMES)
  const fraction = shift - whole
  const taps = fraction <= EXACT_FRAMES ? null : sincTaps(fraction)
  const from = Math.max(0, Math.ceil(centre - left))
  const to = Math.min(sum.length - 1, Math.floor(centre + right))
  for (let i = from; i <= to; i++) {
    const away = (i - centre) / (i < centre ? left : right)
    const weight = gain * (0.5 + 0.5 * Math.cos(Math.PI * away))
    if (isScaled) sum[i] += weight * readAt(voice, source + (i - centre) * throat)
    else sum[i] += weight * (taps ? between(voice, i + whole, taps) : (voice[i + whole] ?? 0))
    if (!isExact) changed[i] = 1
  }
}

function reach(grain: Grain, neighbour: Grain | undefined): number {
  if (!neighbour) return grain.period ?? NOISE_HOP_FRAMES
  const apart = Math.max(1, Math.abs(neighbour.centre - grain.centre))
  return grain.period !== null && neighbour.period !== null ? Math.min(apart, MOST_REACH_PERIODS * grain.period) : apart
}

const TAPS = 16

/** A sinc under a Hann window, between the 8th and the 9th of its samples. */
function sincTaps(fraction: number): Float64Array {
  const taps = new Float64Array(TAPS)
  for (let n = 0; n < TAPS; n++) {
    const x = n - (TAPS / 2 - 1) - fraction
    const window = 0.5 + 0.5 * Math.cos((Math.PI * x) / (TAPS / 2))
    taps[n] = (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * window
  }
  return taps
}

/** So fine that what is rounded off lies 75 dB below any voice. */
const PHASES = 2_048
let tapsByPhase: Float64Array[] = []

/** A fraction of its own for every sample: its taps are looked up. */
function readAt(voice: Mono, at: number): number {
  const phase = Math.round(at * PHASES)
  const whole = Math.floor(phase / PHASES)
  if (tapsByPhase.length === 0) tapsByPhase = Array.from({ length: PHASES }, (_, i) => sincTaps(i / PHASES))
  return between(voice, whole, tapsByPhase[phase - whole * PHASES])
}

function between(voice: Mono, at: number, taps: Float64Array): number {
  const first = at - (TAPS / 2 - 1)
  if (first < 0 || first + TAPS > voice.length) return voice[at] ?? 0
  let sample = 0
  for (let n = 0; n < TAPS; n++) sample += taps[n] * voice[first + n]
  return sample
}
