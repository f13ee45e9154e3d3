/** The consonants that phrases end with: of five voices that do not end at once, five are heard. */
import { HOP_SECONDS } from './hop'
import type { Stretch } from './phrases'

/** Of its power so much lies above `AIR_FROM_HZ`; the dying end of a vowel is low. */
const LEAST_AIR = 0.6
const LEAST_SECONDS = 0.025
const MOST_SECONDS = 0.4
/** A consonant stands this far above the room. */
const ABOVE_ROOM = 6

/** @param f0Hz By hop, 0 for none; so are the powers: all of it without rumble, and what lies above `AIR_FROM_HZ`. @returns in order. */
export function findFinals({
  f0Hz,
  power,
  airPower,
  phrases,
  roomPower,
}: {
  f0Hz: Float32Array
  power: Float32Array
  airPower: Float32Array
  phrases: readonly Stretch[]
  roomPower: number
}): Stretch[] {
  return phrases.flatMap(({ startSeconds, endSeconds }) => {
    const end = Math.min(power.length, Math.round(endSeconds / HOP_SECONDS))
    const least = Math.max(startSeconds / HOP_SECONDS, end - MOST_SECONDS / HOP_SECONDS)
    const isAir = (i: number) => f0Hz[i] === 0 && power[i] > ABOVE_ROOM * roomPower && airPower[i] > LEAST_AIR * power[i]
    let to = end
    while (to > least && !isAir(to - 1) && f0Hz[to - 1] === 0) to--
    let from = to
    while (from > least && isAir(from - 1)) from--
    return (to - from) * HOP_SECONDS >= LEAST_SECONDS ? [{ startSeconds: from * HOP_SECONDS, endSeconds: to * HOP_SECONDS }] : []
  })
}
