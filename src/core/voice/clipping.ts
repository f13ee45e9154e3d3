/** Stretches where the converter was overloaded: the wave lies flat at its top, wherever it was cut, or reaches full scale or beyond. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { Stretch } from './phrases'

/** Samples in a row within this of the top make one clip. */
const FLATNESS = 0.002
/** Two equal tops in a row: one alone is any sound's highest sample. */
const LEAST_RUN = 2
/** A soft take has no tops to be cut off; -14 dBFS. */
const LEAST_TOP = 0.2
/** Clips nearer than this are one stretch. */
const JOIN_SECONDS = 0.003

/** At full scale, as the input's meter counts it. */
const FULL_SCALE = 0.9999
/** One or two such samples in a take are a sound that was brought exactly to full scale. */
const LEAST_OVER = 3

/** A wave that only reaches its top once in a while is not clipped: the top must be held, and more than once. */
export function findClipping(voice: Float32Array): Stretch[] {
  let top = 0
  let over = 0
  for (let i = 0; i < voice.length; i++) {
    const level = Math.abs(voice[i])
    if (level > top) top = level
    if (level >= FULL_SCALE) over++
  }
  if (top < LEAST_TOP) return []
  // Floating-point sound may go beyond full scale, where no file or converter follows: its tops are lost, though they are not flat here.
  const isOver = over >= LEAST_OVER
  const flat = isOver ? Math.min(FULL_SCALE, top * (1 - FLATNESS)) : top * (1 - FLATNESS)
  const runs: { from: number; to: number }[] = []
  for (let i = 0; i < voice.length; i++) {
    if (Math.abs(voice[i]) < flat) continue
    let to = i + 1
    while (to < voice.length && Math.abs(voice[to]) >= flat && voice[to] * voice[i] > 0) to++
    if (to - i >= LEAST_RUN || (isOver && Math.abs(voice[i]) >= FULL_SCALE)) runs.push({ from: i, to })
    i = to
  }
  if (runs.length < 2 && top < 0.999) return []
  const stretches: Stretch[] = []
  for (const { from, to } of runs) {
    const last = stretches.at(-1)
    if (last && from / SAMPLE_RATE_HZ - last.endSeconds < JOIN_SECONDS) last.endSeconds = to / SAMPLE_RATE_HZ
    else stretches.push({ startSeconds: from / SAMPLE_RATE_HZ, endSeconds: to / SAMPLE_RATE_HZ })
  }
  return stretches
}
