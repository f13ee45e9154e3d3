/** Notes to hear a key by: its scale, its tonic chord, a drone, at the beat's own tuning. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'

const NOTE_SECONDS = 0.45
const CHORD_SECONDS = 2.5
/** The drone is made to be looped: every partial has whole periods in this time. */
const DRONE_SECONDS = 4
const PARTIALS = [1, 0.45, 0.25, 0.12]
const LEVEL = 0.16

/** Pitches from C4 = 60 up. */
function hertz(pitch: number, tuningCents: number): number {
  return 440 * 2 ** ((pitch - 69 + tuningCents / 100) / 12)
}

/** One octave up and the tonic above it. @param semitones Of the scale, above the tonic. @param tonic 0..11, C = 0. */
export function scaleTones(tonic: number, semitones: readonly number[], tuningCents: number): Mono {
  const pitches = [...semitones, 12].map(step => 60 + tonic - (tonic > 6 ? 12 : 0) + step)
  const sound = new Float32Array(Math.round((pitches.length * NOTE_SECONDS + 0.4) * SAMPLE_RATE_HZ))
  pitches.forEach((pitch, i) => addPlucked(sound, i * NOTE_SECONDS, hertz(pitch, tuningCents), NOTE_SECONDS + 0.35, LEVEL))
  return sound
}

/** @param tones Pitch classes, the root first. */
export function chordTonesAt(tones: readonly number[], tuningCents: number): Mono {
  const sound = new Float32Array(Math.round(CHORD_SECONDS * SAMPLE_RATE_HZ))
  let pitch = 47
  for (const tone of [tones[0], ...tones]) {
    do pitch++
    while (pitch % 12 !== tone)
    addPlucked(sound, 0, hertz(pitch, tuningCents), CHORD_SECONDS, LEVEL * 0.8)
  }
  return sound
}

/** Tonic and fifth, held; loops without a seam. */
export function droneTones(tonic: number, tuningCents: number): Mono {
  const frames = DRONE_SECONDS * SAMPLE_RATE_HZ
  const sound = new Float32Array(frames)
  for (const [pitch, level] of [
    [48 + tonic, 1],
    [55 + tonic, 0.6],
    [60 + tonic, 0.5],
  ]) {
    // Rounded to a whole number of periods a loop: at most half a period in four seconds, a twentieth of a cent.
    const periods = Math.round(hertz(pitch - (tonic > 6 ? 12 : 0), tuningCents) * DRONE_SECONDS)
    PARTIALS.forEach((partial, k) => {
      const step = (2 * Math.PI * periods * (k + 1)) / frames
      for (let i = 0; i < frames; i++) sound[i] += LEVEL * 0.6 * level * partial * Math.sin(step * i)
    })
  }
  return sound
}

function addPlucked(sound: Mono, atSeconds: number, hz: number, seconds: number, level: number): void {
  const from = Math.round(atSeconds * SAMPLE_RATE_HZ)
  const length = Math.min(sound.length - from, Math.round(seconds * SAMPLE_RATE_HZ))
  PARTIALS.forEach((partial, k) => {
    const step = (2 * Math.PI * hz * (k + 1)) / SAMPLE_RATE_HZ
    for (let i = 0; i < length; i++) {
      const t = i / SAMPLE_RATE_HZ
      sound[from + i] += level * partial * Math.min(1, i / 300, (length - i) / 600) * Math.exp(-t * (2 + k)) * Math.sin(step * i)
    }
  })
}
