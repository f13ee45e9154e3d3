/** Noises between the phrases: a cough, a chair, a page; what stands out of the room and is neither sung nor breathed. */
import { HOP_SECONDS } from './hop'
import type { Stretch } from './phrases'
import { maxOf, runsOf } from './runs'

/** It stands this far above the room at its loudest, and is heard while it stands half as far. */
const ABOVE_ROOM = 10 ** 1
const STILL_ABOVE_ROOM = 10 ** 0.5
/** Softer ones are heard by nobody: -66 dBFS. */
const LEAST_POWER = 10 ** -6.6
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
  const least = Math.max(LEAST_POWER, STILL_ABOVE_ROOM * roomPower)
  const joined: { from: number; to: number }[] = []
  for (const run of runsOf(power.length, i => taken[i] === 0 && power[i] > least)) {
    const last = joined.at(-1)
    const isOne = last && (run.from - last.to) * HOP_SECONDS < JOIN_SECONDS && maxOf(taken, last.to, run.from) === 0
    if (isOne) last.to = run.to
    else joined.push({ ...run })
  }
  return joined
    .filter(({ from, to }) => (to - from) * HOP_SECONDS >= LEAST_SECONDS && maxOf(power, from, to) > ABOVE_ROOM * Math.max(roomPower, LEAST_POWER / ABOVE_ROOM))
    .map(({ from, to }) => ({ startSeconds: from * HOP_SECONDS, endSeconds: to * HOP_SECONDS }))
}
