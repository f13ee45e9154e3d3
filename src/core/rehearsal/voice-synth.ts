/** The source-filter voice itself: control tracks in, sound out. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'

/** Control tracks move in steps of one millisecond. */
export const CONTROL_RATE_HZ = 1_000
const STEP_FRAMES = SAMPLE_RATE_HZ / CONTROL_RATE_HZ

export interface VoiceTracks {
  f0Hz: Float32Array
  /** Linear amplitudes, smoothed here. */
  voicing: Float32Array
  aspiration: Float32Array
  noise: Float32Array
  noiseHz: Float32Array
  noiseBandwidthHz: Float32Array
  thump: Float32Array
  /** Four tracks of hertz. */
  formants: Float32Array[]
  formantScale: number
}

const BANDWIDTHS_HZ = [80, 100, 140, 200, 280, 420, 600]
/** Above the four that move; they keep the voice from going dull. */
const FIXED_FORMANTS_HZ = [4_600, 5_900, 7_400]
const TABLE_SIZE = 2_048
/** Wavetables of the glottal pulse with ever more harmonics; the richest that stays below the half rate is played. */
const HARMONICS = [12, 20, 32, 48, 72, 110, 160]
/** Made when first sung with: it takes longer than to load this file. */
let tables: Float32Array[] | null = null

/**
 * Cascade formant synthesis: glottal pulses and breath through seven resonators, consonant noise beside them.
 * @see D. H. Klatt, Software for a cascade/parallel formant synthesizer, J. Acoust. Soc. Am. 67 (1980).
 */
export function synthesise(tracks: VoiceTracks, random: () => number): Mono {
  tables ??= HARMONICS.map(makeTable)
  const steps = tracks.f0Hz.length
  const output = new Float32Array(steps * STEP_FRAMES)
  const resonators = BANDWIDTHS_HZ.map(() => new Resonator())
  const frication = new Resonator()
  const frequencies = new Float64Array(7)
  frequencies.set(FIXED_FORMANTS_HZ, 4)
  for (let f = 0; f < 4; f++) frequencies[f] = tracks.formants[f][0]
  let phase = 0
  let voicing = 0
  let aspiration = 0
  let noise = 0
  let thump = 0
  let thumpPhase = 0
  let tilt = 0
  const ease = (now: number, target: number, seconds: number) => target + Math.exp(-1 / (seconds * SAMPLE_RATE_HZ)) * (now - target)
  for (let step = 0; step < steps; step++) {
    for (let f = 0; f < 4; f++) frequencies[f] += 0.045 * (tracks.formants[f][step] - frequencies[f])
    for (let f = 0; f < 7; f++) resonators[f].set(frequencies[f] * tracks.formantScale, BANDWIDTHS_HZ[f])
    frication.set(tracks.noiseHz[step], tracks.noiseBandwidthHz[step])
    const f0 = tracks.f0Hz[step]
    const nextF0 = tracks.f0Hz[Math.min(steps - 1, step + 1)]
    const table = tables[tableFor(Math.max(f0, nextF0))]
    for (let i = 0; i < STEP_FRAMES; i++) {
      voicing = ease(voicing, tracks.voicing[step], 0.009)
      aspiration = ease(aspiration, tracks.aspiration[step], 0.008)
      noise = ease(noise, tracks.noise[step], 0.004)
      thump = ease(thump, tracks.thump[step], 0.006)
      phase += (f0 + ((nextF0 - f0) * i) / STEP_FRAMES) / SAMPLE_RATE_HZ
      if (phase >= 1) phase -= 1
      const position = phase * TABLE_SIZE
      const whole = Math.floor(position)
      const pulse = table[whole] + (position - whole) * (table[whole + 1] - table[whole])
      const white = 2 * random() - 1
      // Breath is strongest while the glottis is open.
      let sample = voicing * pulse + aspiration * white * (1 - 0.5 * voicing * phase)
      for (let f = 0; f < 7; f++) sample = resonators[f].process(sample)
      // The lips radiate high frequencies better; a gentle slope is kept under the voice.
      const radiated = sample - 0.94 * tilt
      tilt = sample
      thumpPhase += 55 / SAMPLE_RATE_HZ
      output[step * STEP_FRAMES + i] = 0.9 * radiated + noise * frication.process(white) * 0.9 + thump * Math.sin(2 * Math.PI * thumpPhase)
    }
  }
  return output
}

function tableFor(f0Hz: number): number {
  for (let i = HARMONICS.length - 1; i > 0; i--) if (HARMONICS[i] * f0Hz < 0.42 * SAMPLE_RATE_HZ) return i
  return 0
}

/** A glottal pulse by its harmonics, falling about 6 dB an octave (the radiation's 6 dB is taken off in `synthesise`), one guard sample at the end. */
function makeTable(harmonics: number): Float32Array {
  const table = new Float32Array(TABLE_SIZE + 1)
  for (let n = 1; n <= harmonics; n++) {
    const amplitude = n ** -1.05
    for (let i = 0; i <= TABLE_SIZE; i++) table[i] += amplitude * Math.sin((2 * Math.PI * n * i) / TABLE_SIZE + 0.35 * n)
  }
  return table
}

/** A two-pole resonator with unity gain at 0 Hz. */
class Resonator {
  private a = 1
  private b = 0
  private c = 0
  private y1 = 0
  private y2 = 0

  set(hz: number, bandwidthHz: number): void {
    const radius = Math.exp((-Math.PI * bandwidthHz) / SAMPLE_RATE_HZ)
    this.c = -radius * radius
    this.b = 2 * radius * Math.cos((2 * Math.PI * hz) / SAMPLE_RATE_HZ)
    this.a = 1 - this.b - this.c
  }

  process(x: number): number {
    const y = this.a * x + this.b * this.y1 + this.c * this.y2
    this.y2 = this.y1
    this.y1 = y
    return y
  }
}
