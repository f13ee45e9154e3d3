/** How a delivery begins and ends: with the song or its first sound, at once or faded. */
import { peakOf } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Planar } from '../audio/frames'

export interface DeliveryShape {
  /** From the first sound on, and not from the beginning of the song. */
  fromFirstSound: boolean
  fadeInSeconds: number
  fadeOutSeconds: number
}
export const AS_MIXED: DeliveryShape = { fromFirstSound: false, fadeInSeconds: 0, fadeOutSeconds: 0 }
export const FADE_RANGE_SECONDS = { min: 0, max: 30 } as const

/** -60 dBFS: softer than this nothing has begun. */
const FIRST_SOUND = 1e-3
/** Left before the first sound, so that it begins as it does. */
const BEFORE_FIRST_FRAMES = 480

/** @param pieces Of the whole sound, at 48 kHz; theirs to be changed. A fade is as long as the sound at most, and straight in amplitude. */
export function shaped(pieces: readonly Planar[], { fromFirstSound, fadeInSeconds, fadeOutSeconds }: DeliveryShape): Planar[] {
  const kept = fromFirstSound ? fromFirst(pieces) : [...pieces]
  const frames = kept.reduce((sum, planes) => sum + planes[0].length, 0)
  const [fadeIn, fadeOut] = [fadeInSeconds, fadeOutSeconds].map(seconds => Math.min(frames, Math.round(seconds * SAMPLE_RATE_HZ)))
  let at = 0
  for (const planes of kept) {
    const { length } = planes[0]
    if (at < fadeIn || at + length > frames - fadeOut) {
      for (const plane of planes) {
        for (let i = 0; i < length; i++) plane[i] *= Math.min(1, fadeIn > 0 ? (at + i) / fadeIn : 1, fadeOut > 0 ? (frames - 1 - at - i) / fadeOut : 1)
      }
    }
    at += length
  }
  return kept
}

function fromFirst(pieces: readonly Planar[]): Planar[] {
  const first = pieces.findIndex(planes => planes.some(plane => peakOf(plane) > FIRST_SOUND))
  if (first < 0) return [...pieces]
  const at = Math.min(...pieces[first].map(plane => plane.findIndex(sample => Math.abs(sample) > FIRST_SOUND)).map(i => (i < 0 ? Infinity : i)))
  const before = pieces.slice(0, first)
  const toDrop = before.reduce((sum, planes) => sum + planes[0].length, 0) + at - BEFORE_FIRST_FRAMES
  return dropFrames(pieces, Math.max(0, toDrop))
}

function dropFrames(pieces: readonly Planar[], frames: number): Planar[] {
  let left = frames
  return pieces.flatMap(planes => {
    const dropped = Math.min(left, planes[0].length)
    left -= dropped
    return dropped < planes[0].length ? [planes.map(plane => plane.subarray(dropped))] : []
  })
}
