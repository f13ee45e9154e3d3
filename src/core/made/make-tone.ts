/** A part as a soft tone, to sing to: no voice, and nothing that could be taken for one. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'

/** In frames of the sound. */
export interface ToneNote {
  startFrame: number
  endFrame: number
  midi: number
}

/** Decibels under full scale of a note's loudest moment: as loud as a voice that was sung into the microphone with care. */
const LEVEL = 10 ** (-16 / 20)
/** Harmonics fall by 9 dB an octave, and none lies above this: an open "oo". */
const SLOPE = 1.5
const HIGHEST_HZ = 3_000
const MOST_HARMONICS = 12
const ATTACK_SECONDS = 0.025
const RELEASE_SECONDS = 0.06
/** A held note falls by half in so long, so that a long one does not lie over everything. */
const HALVES_SECONDS = 2.5

/** @param tuningCents Of the beat, from 440 Hz. @returns notes over each other add up. */
export function makeTone(frames: number, notes: readonly ToneNote[], tuningCents: number): Mono {
  const sound: Mono = new Float32Array(frames)
  for (const note of notes) {
    const hz = 440 * 2 ** ((note.midi - 69) / 12 + tuningCents / 1_200)
    const harmonics = Math.max(1, Math.min(MOST_HARMONICS, Math.floor(HIGHEST_HZ / hz)))
    const weights = Array.from({ length: harmonics }, (_, k) => (k + 1) ** -SLOPE)
    const sum = weights.reduce((total, weight) => total + weight, 0)
    const length = note.endFrame - note.startFrame
    const release = Math.min(RELEASE_SECONDS * SAMPLE_RATE_HZ, length / 2)
    for (let i = Math.max(0, -note.startFrame); i < length && note.startFrame + i < frames; i++) {
      const seconds = i / SAMPLE_RATE_HZ
      const envelope = Math.min(1, seconds / ATTACK_SECONDS, (length - i) / release) * 0.5 ** (seconds / HALVES_SECONDS)
      const phase = 2 * Math.PI * hz * seconds
      let value = 0
      for (let k = 0; k < harmonics; k++) value += weights[k] * Math.sin((k + 1) * phase)
      sound[note.startFrame + i] += (LEVEL * envelope * value) / sum
    }
  }
  return sound
}
