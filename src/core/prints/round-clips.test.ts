import { expect, test } from '@jest/globals'
import type { Mono } from '../audio/frames'
import { findClipping } from '../voice/clipping'
import { buzz } from '../voice/voice.test-kit'
import { roundClips } from './round-clips'

const RATE = 48_000
const { sound } = buzz(() => 180)
const top = sound.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
const voice = sound.map(sample => (0.9 * sample) / top) as Mono
const error = (made: Mono) => made.reduce((sum, sample, i) => sum + (sample - voice[i]) ** 2, 0)

test.each([0.75, 0.6, 0.45])('tops cut at %d of their height come back nearer to what was sung, and nothing else is touched', height => {
  const limit = height * 0.9
  const clipped = voice.map(sample => Math.max(-limit, Math.min(limit, sample))) as Mono
  const rounded = clipped.slice()
  for (const { startSeconds, endSeconds } of findClipping(clipped)) roundClips(rounded, Math.round(startSeconds * RATE), Math.round(endSeconds * RATE))
  expect(10 * Math.log10(error(rounded) / error(clipped))).toBeLessThan(-6)
  clipped.forEach((sample, i) => {
    if (Math.abs(sample) < 0.99 * limit && rounded[i] !== sample) throw new Error(`sample ${i} was not cut off, and was changed`)
    if (Math.abs(rounded[i]) < Math.abs(sample)) throw new Error(`sample ${i} lies below where it was cut`)
  })
  expect(rounded.every(sample => Math.abs(sample) <= 2.001 * limit)).toBe(true)
})
