/** Mains hum: lines at 50 or 60 Hz and their harmonics that stand above the room's noise. */
import { powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ } from '../audio/frames'

/** Looked at up to this one: above it a hum's lines are weak and lie among the voice's. */
const HARMONICS = 6
/** How far a line must stand above what lies beside it. */
const LEAST_PROMINENCE = 12
const LEAST_DBFS = -95
const SECOND = SAMPLE_RATE_HZ

/**
 * @param room At least half a second of the room without a voice, one channel at 48 kHz.
 * @returns the mains frequency and the level of its lines together (root mean square), or null if none stands out.
 */
export function findHum(room: Float32Array): { mainsHz: 50 | 60; levelDbfs: number } | null {
  const found = ([50, 60] as const).map(mainsHz => {
    const periods = Math.floor((Math.min(room.length, 4 * SECOND) * mainsHz) / SAMPLE_RATE_HZ)
    const frames = Math.round((periods * SAMPLE_RATE_HZ) / mainsHz)
    let power = 0
    let lines = 0
    for (let harmonic = 1; harmonic <= HARMONICS; harmonic++) {
      // 300 Hz is a harmonic of both mains.
      if (harmonic * mainsHz === 300) continue
      const line = powerAt(room, frames, harmonic * mainsHz)
      const beside = (powerAt(room, frames, harmonic * mainsHz - 7.3) + powerAt(room, frames, harmonic * mainsHz + 7.3)) / 2
      if (powerToDecibels(line / (beside + 1e-14)) < LEAST_PROMINENCE) continue
      power += line
      lines++
    }
    return { mainsHz, levelDbfs: powerToDecibels(power), lines }
  })
  const best = found[0].levelDbfs >= found[1].levelDbfs ? found[0] : found[1]
  return best.lines > 0 && best.levelDbfs > LEAST_DBFS ? { mainsHz: best.mainsHz, levelDbfs: best.levelDbfs } : null
}

/** Power of a Hann-windowed tone at a frequency (a full-scale sine reads 0.5). @see G. Goertzel, Amer. Math. Monthly 65 (1958). */
function powerAt(signal: Float32Array, frames: number, hz: number): number {
  const turn = (2 * Math.PI * hz) / SAMPLE_RATE_HZ
  const coefficient = 2 * Math.cos(turn)
  let s1 = 0
  let s2 = 0
  for (let i = 0; i < frames; i++) {
    const s = signal[i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / frames)) + coefficient * s1 - s2
    s2 = s1
    s1 = s
  }
  const magnitude2 = s1 * s1 + s2 * s2 - coefficient * s1 * s2
  return (8 * magnitude2) / (frames * frames)
}
