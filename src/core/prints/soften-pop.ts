/** A pop made softer: only what of it lies below the voice, without moving anything in time. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { filtered, lowPass } from '../effects/biquad'

const BELOW_HZ = 95
/** Heard before and after, so that the filter is in motion. */
const CONTEXT_FRAMES = SAMPLE_RATE_HZ / 10
const IN_FRAMES = 480
const OUT_FRAMES = 2_400

/** @param voice One channel at 48 kHz, changed in place near the stretch. */
export function softenPop(voice: Mono, startFrame: number, endFrame: number, decibels: number): void {
  const from = Math.max(0, startFrame - IN_FRAMES)
  const to = Math.min(voice.length, endFrame + OUT_FRAMES)
  const first = Math.max(0, from - CONTEXT_FRAMES)
  const filter = lowPass(BELOW_HZ)
  // Forwards and backwards: what is taken away lies exactly on what is there.
  const low = filtered(filtered(voice.subarray(first, to + CONTEXT_FRAMES), filter).reverse(), filter).reverse()
  const away = 1 - decibelsToGain(decibels)
  for (let i = from; i < to; i++) {
    const inside = Math.min(1, (i - from) / IN_FRAMES, (to - i) / OUT_FRAMES)
    voice[i] -= away * (0.5 - 0.5 * Math.cos(Math.PI * inside)) * low[i - first]
  }
}
