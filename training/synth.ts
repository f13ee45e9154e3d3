/** Plays a composition without a sound font: plain drums, plucked and held tones. For checks that run anywhere. */
import { SAMPLE_RATE_HZ, type Mono } from '../src/core/audio/frames'
import { makeRandom } from '../src/core/audio/random'
import type { Composition, Note } from './compose'

const TABLE_SIZE = 4_096
/** Harmonic amplitudes by channel: chords, bass, melody, pad. */
const SOUNDS: Record<number, { partials: number[]; decayPerSecond: number; level: number }> = {
  0: { partials: [1, 0.5, 0.3, 0.15, 0.08], decayPerSecond: 1.5, level: 0.1 },
  1: { partials: [1, 0.6, 0.35, 0.2], decayPerSecond: 0.8, level: 0.28 },
  3: { partials: [1, 0.2, 0.4, 0.1], decayPerSecond: 2.5, level: 0.12 },
  4: { partials: [1, 0.3, 0.1], decayPerSecond: 0, level: 0.05 },
}

export function playPlainly({ notes, seconds, master, truth }: Composition, seed: number): Mono {
  const shift = master.leadSilenceSeconds - master.cutSeconds
  const sound = new Float32Array(Math.round((seconds + shift) * SAMPLE_RATE_HZ))
  const random = makeRandom(seed)
  const noise = Float32Array.from({ length: SAMPLE_RATE_HZ }, () => random() * 2 - 1)
  const tables = new Map(
    Object.entries(SOUNDS).map(([channel, { partials }]) => [
      Number(channel),
      Float32Array.from({ length: TABLE_SIZE }, (_, i) =>
        partials.reduce((sum, level, k) => sum + level * Math.sin((2 * Math.PI * (k + 1) * i) / TABLE_SIZE), 0),
      ),
    ]),
  )
  for (const note of notes) {
    const start = Math.round((note.seconds + shift) * SAMPLE_RATE_HZ)
    if (note.channel === 9) addDrum(sound, start, note, noise)
    else addTone(sound, start, note, tables.get(note.channel)!, truth.tuningCents)
  }
  let peak = 1e-9
  for (const x of sound) peak = Math.max(peak, Math.abs(x))
  return sound.map(x => (0.8 * x) / peak)
}

function addTone(sound: Mono, start: number, { channel, pitch, velocity, lengthSeconds }: Note, table: Mono, cents: number): void {
  const { decayPerSecond, level } = SOUNDS[channel]
  const step = (TABLE_SIZE * 440 * 2 ** ((pitch - 69 + cents / 100) / 12)) / SAMPLE_RATE_HZ
  const length = Math.round(lengthSeconds * SAMPLE_RATE_HZ)
  const decay = Math.exp(-decayPerSecond / SAMPLE_RATE_HZ)
  let gain = (level * velocity) / 127
  for (let i = 0, phase = 0; i < length; i++, gain *= decay, phase = (phase + step) % TABLE_SIZE) {
    if (start + i >= 0 && start + i < sound.length) sound[start + i] += gain * Math.min(1, i / 200, (length - i) / 400) * table[phase | 0]
  }
}

function addDrum(sound: Mono, start: number, { pitch, velocity }: Note, noise: Mono): void {
  const loud = velocity / 127
  const kick = pitch === 35 || pitch === 36
  const bright = [42, 44, 46, 49, 51, 54, 70, 82].includes(pitch)
  const length = Math.round((kick ? 0.25 : bright ? (pitch === 49 ? 0.8 : 0.06) : 0.18) * SAMPLE_RATE_HZ)
  let before = 0
  for (let i = 0, phase = 0; i < length; i++) {
    const t = i / SAMPLE_RATE_HZ
    const at = start + i
    const fall = Math.exp((-5 * i) / length)
    phase += (2 * Math.PI * (kick ? 48 + 90 * Math.exp(-t * 40) : 190)) / SAMPLE_RATE_HZ
    const hiss = noise[(i + pitch * 97) % noise.length]
    const value = kick ? 0.9 * Math.sin(phase) : bright ? 0.16 * (hiss - before) : 0.4 * hiss + 0.25 * Math.sin(phase)
    before = hiss
    if (at >= 0 && at < sound.length) sound[at] += loud * fall * value
  }
}
