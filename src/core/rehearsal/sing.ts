/** The practice singer: a glottal source through moving formants sings a score, with faults one can ask for. */
import { decibelsToGain } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { synthesise, type VoiceTracks, CONTROL_RATE_HZ } from './voice-synth'
import type { Consonant, Formants } from './phonemes'
import type { ScoreLine, ScoreNote } from './score'

export interface SingerFaults {
  /** Standard deviations, line by line. */
  pitchSpreadCents: number
  timingSpreadSeconds: number
  levelSpreadDecibels: number
  /** About one line in four is plainly flat, late or clipped. */
  plain: boolean
  scoops: boolean
  pops: boolean
  vibratoCents: number
  /** Noise of the room under the whole take. */
  noiseDbfs: number
}

export const NO_FAULTS: SingerFaults = {
  pitchSpreadCents: 0,
  timingSpreadSeconds: 0,
  levelSpreadDecibels: 0,
  plain: false,
  scoops: false,
  pops: false,
  vibratoCents: 0,
  noiseDbfs: -120,
}
/** How a careful amateur sings. */
export const USUAL_FAULTS: SingerFaults = {
  pitchSpreadCents: 11,
  timingSpreadSeconds: 0.014,
  levelSpreadDecibels: 1.2,
  plain: true,
  scoops: true,
  pops: true,
  vibratoCents: 28,
  noiseDbfs: -66,
}

export interface SingerOptions {
  score: readonly ScoreLine[]
  /** Length of the result in frames at 48 kHz. */
  frames: number
  /** The singer, and which pass this is: equal numbers give equal samples. */
  seed: number
  take: number
  faults?: SingerFaults
  /** 1 for a middle voice; larger for a smaller head. */
  formantScale?: number
  onProgress?: (fraction: number) => void
}

export type PlainFault = 'flat' | 'late' | 'clipped'

/** The plain faults of each line of a pass; null where it is sung as well as the singer can. */
export function plainFaults(lineCount: number, seed: number, take: number): (PlainFault | null)[] {
  const random = makeRandom(seed * 7_919 + take * 104_729 + 13)
  const kinds: PlainFault[] = ['flat', 'late', 'clipped']
  return Array.from({ length: lineCount }, () => (random() < 0.25 ? kinds[Math.floor(random() * kinds.length)] : null))
}

/** Sings the score as one mono take at 48 kHz; 0 s of the score is frame 0. Peaks lie near -8 dBFS where nothing is clipped. */
export function sing({ score, frames, seed, take, faults = USUAL_FAULTS, formantScale = 1, onProgress }: SingerOptions): Mono {
  const random = makeRandom(seed * 1_000_003 + take * 8_191)
  const plain = faults.plain ? plainFaults(score.length, seed, take) : []
  const output = new Float32Array(frames)
  score.forEach((line, index) => {
    const fault = plain[index] ?? null
    const pitchCents = gaussian(random) * faults.pitchSpreadCents + (fault === 'flat' ? -58 : 0)
    const lateSeconds = gaussian(random) * faults.timingSpreadSeconds + (fault === 'late' ? 0.13 : 0)
    const gain = 0.3 * decibelsToGain(gaussian(random) * faults.levelSpreadDecibels) * (fault === 'clipped' ? 6 : 1)
    const rendered = singLine(line, { pitchCents, lateSeconds, faults, formantScale, random })
    addInto(output, rendered.sound, Math.round(rendered.startSeconds * SAMPLE_RATE_HZ), gain)
    onProgress?.((index + 1) / score.length)
  })
  // Uniform noise of this root mean square.
  const noise = decibelsToGain(faults.noiseDbfs) * Math.sqrt(3)
  for (let i = 0; i < frames; i++) {
    const sample = output[i] + (noise > 1e-5 ? noise * (2 * random() - 1) : 0)
    // As a converter does: clipped at full scale, 16 bits deep.
    output[i] = Math.max(-32_768, Math.min(32_767, Math.round(sample * 32_768))) / 32_768
  }
  return output
}

function addInto(target: Mono, source: Mono, at: number, gain: number): void {
  for (let i = Math.max(0, -at); i < source.length && at + i < target.length; i++) target[at + i] += source[i] * gain
}

const LEAD_IN_SECONDS = 0.75
const TAIL_SECONDS = 0.35

interface LineManner {
  pitchCents: number
  lateSeconds: number
  faults: SingerFaults
  formantScale: number
  random: () => number
}

/** One line with the breath before it; `startSeconds` is where the sound begins in the song. */
function singLine(line: ScoreLine, manner: LineManner): { sound: Mono; startSeconds: number } {
  const last = line.notes[line.notes.length - 1]
  const startSeconds = line.notes[0].startSeconds - LEAD_IN_SECONDS + manner.lateSeconds
  const steps = Math.ceil((last.endSeconds - line.notes[0].startSeconds + LEAD_IN_SECONDS + TAIL_SECONDS) * CONTROL_RATE_HZ)
  const tracks = emptyTracks(steps, manner.formantScale)
  const at = (seconds: number) => Math.round((seconds - line.notes[0].startSeconds + LEAD_IN_SECONDS) * CONTROL_RATE_HZ)
  writeBreath(tracks, at(line.notes[0].startSeconds) - Math.round(0.6 * CONTROL_RATE_HZ), Math.round(0.38 * CONTROL_RATE_HZ))
  line.notes.forEach((note, i) => writeNote(tracks, note, line.notes[i + 1] ?? null, at, manner))
  writePitch(tracks, line.notes, at, manner)
  return { sound: synthesise(tracks, manner.random), startSeconds }
}

const NEUTRAL: Formants = [500, 1_500, 2_600, 3_550]

function emptyTracks(steps: number, formantScale: number): VoiceTracks {
  const track = (value: number) => new Float32Array(steps).fill(value)
  return {
    f0Hz: track(200),
    voicing: track(0),
    aspiration: track(0),
    noise: track(0),
    noiseHz: track(4_000),
    noiseBandwidthHz: track(3_000),
    thump: track(0),
    formants: NEUTRAL.map(track),
    formantScale,
  }
}

function writeBreath(tracks: VoiceTracks, from: number, length: number): void {
  for (let i = 0; i < length; i++) {
    const step = from + i
    if (step >= 0) tracks.aspiration[step] = 0.16 * Math.sin((Math.PI * i) / length) ** 1.5
  }
}

/** Onset consonants end where the note begins, coda consonants where it ends; the vowel fills what is between. */
function writeNote(tracks: VoiceTracks, note: ScoreNote, next: ScoreNote | null, at: (seconds: number) => number, manner: LineManner): void {
  const { syllable } = note
  const start = at(note.startSeconds)
  // A following onset borrows from the end of this note.
  const borrowed = next ? next.syllable.onset.reduce((sum, consonant) => sum + consonant.seconds, 0) : 0
  const codaSeconds = syllable.coda.reduce((sum, consonant) => sum + consonant.seconds, 0)
  const noteSeconds = note.endSeconds - note.startSeconds
  const squeeze = Math.min(1, (0.6 * noteSeconds) / Math.max(1e-6, borrowed + codaSeconds))
  const end = at(note.endSeconds - borrowed * squeeze)
  const accent = 0.85 + 0.3 * manner.random()
  const vowelEnd = Math.max(start + 20, Math.round(end - codaSeconds * squeeze * CONTROL_RATE_HZ))
  let step = start - Math.round(syllable.onset.reduce((sum, consonant) => sum + consonant.seconds, 0) * CONTROL_RATE_HZ)
  for (const consonant of syllable.onset) step = writeConsonant(tracks, consonant, step, Math.round(consonant.seconds * CONTROL_RATE_HZ), manner)
  for (let i = start; i < vowelEnd && i < tracks.voicing.length; i++) {
    const progress = (i - start) / Math.max(1, vowelEnd - start)
    // A note swells a little, then gives way; the last one fades as the breath ends.
    const swell = 0.78 + 0.22 * Math.min(1, (i - start) / 90)
    tracks.voicing[i] = accent * swell * (next ? 1 - 0.4 * progress ** 1.5 : 1 - 0.75 * progress ** 2)
    tracks.aspiration[i] = 0.012
    const glide = Math.max(0, Math.min(1, (progress - 0.55) / 0.35))
    for (let f = 0; f < 4; f++) tracks.formants[f][i] = syllable.vowel.from[f] + glide * (syllable.vowel.to[f] - syllable.vowel.from[f])
  }
  step = vowelEnd
  for (const consonant of syllable.coda)
    step = writeConsonant(tracks, consonant, step, Math.max(15, Math.round(consonant.seconds * squeeze * CONTROL_RATE_HZ)), manner)
}

function writeConsonant(tracks: VoiceTracks, consonant: Consonant, from: number, steps: number, manner: LineManner): number {
  for (let i = 0; i < steps; i++) {
    const step = from + i
    if (step < 0 || step >= tracks.voicing.length) continue
    const progress = i / steps
    tracks.voicing[step] = consonant.voicing
    tracks.aspiration[step] = consonant.kind === 'breathy' ? consonant.noise : 0
    tracks.noiseHz[step] = consonant.noiseHz || 4_000
    tracks.noiseBandwidthHz[step] = consonant.noiseBandwidthHz
    if (consonant.kind === 'fricative') tracks.noise[step] = consonant.noise * Math.sin(Math.PI * progress) ** 0.6
    // A stop is a closure, then a burst; a lip stop near the microphone also thumps it.
    else tracks.noise[step] = consonant.kind === 'stop' && progress > 0.72 ? consonant.noise * (1 - progress) * 3.5 : 0
    if (consonant.kind === 'stop' && consonant.noiseHz < 1_000 && manner.faults.pops && progress > 0.72) tracks.thump[step] = 0.18
    if (consonant.formants) for (let f = 0; f < 4; f++) tracks.formants[f][step] = consonant.formants[f]
  }
  return from + steps
}

const PORTAMENTO_SECONDS = 0.025

/** Pitch glides from note to note, scoops into a line, then vibrates about its note. */
function writePitch(tracks: VoiceTracks, notes: readonly ScoreNote[], at: (seconds: number) => number, { pitchCents, faults, random }: LineManner): void {
  const { f0Hz } = tracks
  const smoothing = Math.exp(-1 / (PORTAMENTO_SECONDS * CONTROL_RATE_HZ))
  const vibratoHz = 5.1 + 0.6 * random()
  let midi = notes[0].midi
  let jitter = 0
  let index = 0
  for (let step = 0; step < f0Hz.length; step++) {
    while (index + 1 < notes.length && step >= at(notes[index + 1].startSeconds) - 25) index++
    const note = notes[index]
    midi = note.midi + smoothing * (midi - note.midi)
    const since = (step - at(note.startSeconds)) / CONTROL_RATE_HZ
    const length = note.endSeconds - note.startSeconds
    const vibrato = length > 0.4 ? faults.vibratoCents * Math.min(1, Math.max(0, (since - 0.2) / 0.25)) * Math.sin(2 * Math.PI * vibratoHz * since) : 0
    const scoop = faults.scoops && index === 0 ? -140 * Math.exp(-Math.max(0, since) / 0.05) : 0
    jitter = 0.97 * jitter + 0.03 * gaussian(random)
    f0Hz[step] = 440 * 2 ** ((midi - 69) / 12 + (pitchCents + vibrato + scoop + (faults.pitchSpreadCents > 0 ? 10 * jitter : 0)) / 1_200)
  }
}
