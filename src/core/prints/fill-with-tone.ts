/** A noise between phrases that gives way to the room's own tone. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'

/** Noise goes over into noise at equal power. */
const FADE_FRAMES = SAMPLE_RATE_HZ / 100
/** Where the tone is shorter than the noise it is laid again, overlapping by so much of it at most. */
const MOST_OVERLAP_FRAMES = SAMPLE_RATE_HZ / 10

/** @param voice Changed in place from `startFrame` to `endFrame`. @param tone Longer than nothing. */
export function fillWithTone(voice: Mono, startFrame: number, endFrame: number, tone: Mono): void {
  const [from, to] = [Math.max(0, startFrame), Math.min(voice.length, endFrame)]
  if (to <= from || tone.length === 0) return
  const room = laidOut(tone, to - from)
  const fade = Math.min(FADE_FRAMES, (to - from) / 2)
  for (let i = from; i < to; i++) {
    const inside = Math.min(1, (i - from) / fade, (to - 1 - i) / fade)
    voice[i] = Math.cos((Math.PI / 2) * inside) * voice[i] + Math.sin((Math.PI / 2) * inside) * room[i - from]
  }
}

function laidOut(tone: Mono, frames: number): Mono {
  if (tone.length >= frames) return tone.slice(0, frames)
  const overlap = Math.min(MOST_OVERLAP_FRAMES, Math.floor(tone.length / 3))
  const room = new Float32Array(frames)
  for (let at = 0; at < frames; at += tone.length - overlap) {
    for (let i = 0; i < tone.length && at + i < frames; i++) {
      const rising = at === 0 ? 1 : Math.sin((Math.PI / 2) * Math.min(1, i / overlap))
      const falling = Math.sin((Math.PI / 2) * Math.min(1, (tone.length - i) / overlap))
      room[at + i] += rising * falling * tone[i]
    }
  }
  return room
}
