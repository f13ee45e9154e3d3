/** Noises between the phrases: a cough, a chair, a page; what stands out of the room and is neither sung nor breathed. */
import { quantile } from '../audio/statistics'
import { HOP_SECONDS } from './hop'
import type { Stretch } from './phrases'
import { maxOf, runsOf } from './runs'

/** It stands this far above the room at its loudest, and goes on while it stands half as far (in decibels). */
const ABOVE_ROOM = 10 ** 1
const STILL_ABOVE_ROOM = 10 ** 0.5
/** At its loudest it stands at least so far below the loud voice: what is softer, a beat covers. */
const BELOW_LOUD = 10 ** -3.8
const LOUD_SHARE = 0.95
const LEAST_SECONDS = 0.03
/** One noise may falter for so long. */
const JOIN_SECONDS = 0.12
/** So near to a phrase or a breath it is their end or their beginning. */
const APART_SECONDS = 0.08

export interface Surroundings {
  /** By hop, without rumble. */
  power: Float32Array
  phrases: readonly Stretch[]
  breaths: readonly Stretch[]
  /** Mean power of the room, or of the loud moments of music that leaks in, whichever is louder. */
  roomPower: number
}

/** @returns in order, outside all phrases and breaths. */
export function findNoises({ power, phrases, breaths, roomPower }: Surroundings): Stretch[] {
  const taken = new Float32Array(power.length)
  for (const { startSeconds, endSeconds } of [...phrases, ...breaths])
    taken.fill(1, Math.max(0, Math.floor((startSeconds - APART_SECONDS) / HOP_SECONDS)), Math.ceil((endSeconds + APART_SECONDS) / HOP_SECONDS))
  const leastTop = Math.max(BELOW_LOUD * quantile(power, LOUD_SHARE), ABOVE_ROOM * roomPower)
  const least = Math.max((leastTop * STILL_ABOVE_ROOM) / ABOVE_ROOM, 1e-9)
  const joined: { from: number; to: number }[] = []
  for (const run of runsOf(power.length, i => taken[i] === 0 && power[i] > least)) {
    const last = joined.at(-1)
    const isOne = last && (run.from - last.to) * HOP_SECONDS < JOIN_SECONDS && maxOf(taken, last.to, run.from) === 0
    if (isOne) last.to = run.to
    else joined.push({ ...run })
  }
  return joined
    .filter(({ from, to }) => (to - from) * HOP_SECONDS >= LEAST_SECONDS && maxOf(power, from, to) > leastTop)
    .map(({ from, to }) => ({ startSeconds: from * HOP_SECONDS, endSeconds: to * HOP_SECONDS }))
}
