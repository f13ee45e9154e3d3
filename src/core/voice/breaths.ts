/** Breaths: noise without pitch between phrases, louder than the room and softer than the voice. */
import { powerToDecibels } from '../audio/decibels'
import { HOP_SECONDS } from './hop'
import type { Stretch } from './phrases'
import { runsOf } from './runs'

/** A breath is noise this far above the room, and never softer than this. */
const ABOVE_ROOM_DECIBELS = 6
const QUIETEST_DBFS = -68
const SILENT_SHARE = 0.05
/** Shorter noises are clicks of lips. */
const LEAST_SECONDS = 0.12
const MOST_SECONDS = 1.6
/** A breath may falter for this long and is still one. */
const JOIN_SECONDS = 0.04
/** The dying end of a vowel, a step and the room's own rumble are low; so much of a breath lies above `AIR_FROM_HZ`. */
export const AIR_FROM_HZ = 700
const LEAST_AIR = 0.72
/** Where music leaks in, what stands out of it is its loud moments, up to here. */
const ABOVE_MUSIC_DECIBELS = 9

export interface Breathing {
  /** By hop: all of it without rumble, and what of it lies above `AIR_FROM_HZ`. */
  power: Float32Array
  airPower: Float32Array
  phrases: readonly Stretch[]
  noiseFloorDbfs: number
  /** Of music that leaks in, as it usually is; 0 for none. */
  musicPower: number
}

/** @returns in order, outside all phrases. */
export function findBreaths({ power, airPower, phrases, noiseFloorDbfs, musicPower }: Breathing): Stretch[] {
  const silent = power.reduce((count, value) => count + Number(value < 1e-10), 0)
  // Where pauses are digital silence, the quietest sound there is may be the breaths.
  const room = silent > SILENT_SHARE * power.length ? -Infinity : noiseFloorDbfs
  const least = Math.max(QUIETEST_DBFS, room + ABOVE_ROOM_DECIBELS, powerToDecibels(musicPower) + ABOVE_MUSIC_DECIBELS)
  const sung = new Uint8Array(power.length)
  for (const { startSeconds, endSeconds } of phrases) sung.fill(1, Math.max(0, Math.floor(startSeconds / HOP_SECONDS)), Math.ceil(endSeconds / HOP_SECONDS))
  const isAir = (i: number) => powerToDecibels(power[i]) > least && airPower[i] > LEAST_AIR * power[i]
  const runs = runsOf(power.length, i => sung[i] === 0 && isAir(i))
  const joined: Stretch[] = []
  for (const { from, to } of runs) {
    const last = joined.at(-1)
    if (last && from * HOP_SECONDS - last.endSeconds < JOIN_SECONDS) last.endSeconds = to * HOP_SECONDS
    else joined.push({ startSeconds: from * HOP_SECONDS, endSeconds: to * HOP_SECONDS })
  }
  return joined.filter(({ startSeconds, endSeconds }) => endSeconds - startSeconds >= LEAST_SECONDS && endSeconds - startSeconds <= MOST_SECONDS)
}
