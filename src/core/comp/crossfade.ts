/** The crossfade of a seam, chosen from the sound on both sides. */
import type { Mono } from '../audio/frames'
import type { Seam } from '../song/schema'
import type { QuietReason } from './quiet-places'

/** As far round the seam as the choice needs to hear. */
export const SEAM_CONTEXT_FRAMES = 2_400
/** A seam in a voice may be moved this far, to where both takes swing together. */
const MOST_SHIFT_FRAMES = 240
/** 20 ms: two periods of the lowest voice, 100 Hz. */
const WINDOW_FRAMES = 960
/**
 * Normalised correlation r from which two sounds count as alike. In the middle of a crossfade an equal-power one changes the power by
 * 10 lg(1 + r), an equal-gain one by 10 lg((1 + r) / 2): at 0.6 that is +2.0 against -1.0 dB.
 */
const ALIKE = 0.6
/** From here down an equal-power crossfade dips by 1 dB and more. */
const OPPOSED = -0.2
/** Mean power of what counts as silence here, about -60 dBFS. */
const SILENT_POWER = 1e-6

/** 38 ms: in a rest only the rooms are crossed, and the longer that takes the less their difference is noticed. */
const REST_FRAMES = 1_824
/** 12 ms: shorter than the shortest consonant a seam is laid into (30 ms, see quiet-places), so that its edges stay. */
const CONSONANT_FRAMES = 576
/** 20 ms, as long as the likeness was measured over. */
const ALIKE_FRAMES = 960
/** 15 ms: in a longer crossfade of unlike voices two singers are heard. */
const UNLIKE_FRAMES = 720
/** Two voices that swing against each other are crossed fast, so that the dip between them is too short to be heard. */
const OPPOSED_FRAMES = 240

export interface CrossfadeChoice {
  seam: Seam
  /** The seam should lie this much later than asked, where the takes swing together. */
  shiftFrames: number
  /** Of the two takes round the chosen place, -1..1; 0 where one is silent. */
  correlation: number
}

/**
 * @param before The take that ends, @param after the one that begins, both over the same stretch: SEAM_CONTEXT_FRAMES to each side of the seam.
 * @param place The quiet place the seam lies in; null if there is none, or the takes were not listened to.
 */
export function chooseCrossfade(before: Mono, after: Mono, place: { reason: QuietReason; roomFrames: number } | null): CrossfadeChoice {
  const middle = Math.min(before.length, after.length) >> 1
  const silent = powerAround(before, middle) < SILENT_POWER || powerAround(after, middle) < SILENT_POWER
  const make = (frames: number, alike: boolean, shiftFrames = 0, correlation = 0): CrossfadeChoice => ({
    seam: { frames, alike, byHand: false },
    shiftFrames,
    correlation,
  })
  if (silent || place?.reason === 'rest' || place?.reason === 'before-breath')
    return make(Math.max(240, Math.min(REST_FRAMES, place ? place.roomFrames : REST_FRAMES)), false)
  if (place?.reason === 'consonant') return make(Math.max(240, Math.min(CONSONANT_FRAMES, place.roomFrames)), false)
  let best = { shift: 0, correlation: correlationAt(before, after, middle) }
  for (let shift = -MOST_SHIFT_FRAMES; shift <= MOST_SHIFT_FRAMES; shift += 12) {
    const correlation = correlationAt(before, after, middle + shift)
    // A little better is not worth moving.
    if (correlation > best.correlation + 0.02) best = { shift, correlation }
  }
  if (best.correlation >= ALIKE) return make(ALIKE_FRAMES, true, best.shift, best.correlation)
  if (best.correlation <= OPPOSED) return make(OPPOSED_FRAMES, false, best.shift, best.correlation)
  return make(UNLIKE_FRAMES, false, best.shift, best.correlation)
}

/** Normalised correlation at lag zero: takes are never slipped against each other. */
function correlationAt(a: Mono, b: Mono, at: number): number {
  let top = 0
  let a2 = 0
  let b2 = 0
  for (let i = at - WINDOW_FRAMES / 2; i < at + WINDOW_FRAMES / 2; i++) {
    const x = a[i] ?? 0
    const y = b[i] ?? 0
    top += x * y
    a2 += x * x
    b2 += y * y
  }
  return a2 * b2 > 0 ? top / Math.sqrt(a2 * b2) : 0
}

function powerAround(sound: Mono, at: number): number {
  let power = 0
  for (let i = at - WINDOW_FRAMES / 2; i < at + WINDOW_FRAMES / 2; i++) power += (sound[i] ?? 0) ** 2
  return power / WINDOW_FRAMES
}
