/** Breaths: noise without pitch between phrases, louder than the room, softer than the voice. */
import { powerToDecibels } from '../audio/decibels'
import type { VoiceAnalysis } from './analyse-voice'
import type { Stretch } from './phrases'
import { runsOf } from './runs'

/** A breath is noise this far above the room, and never softer than this. */
const ABOVE_ROOM_DECIBELS = 6
const QUIETEST_DBFS = -68
/** Shorter noises are clicks of lips. */
const LEAST_SECONDS = 0.08
/** A breath may falter for this long and is still one. */
const JOIN_SECONDS = 0.04

/** @returns in order, outside all phrases. */
export function findBreaths({
  power,
  phrases,
  hopSeconds,
  noiseFloorDbfs,
}: Pick<VoiceAnalysis, 'power' | 'phrases' | 'hopSeconds' | 'noiseFloorDbfs'>): Stretch[] {
  const least = Math.max(QUIETEST_DBFS, noiseFloorDbfs + ABOVE_ROOM_DECIBELS)
  const sung = new Uint8Array(power.length)
  for (const { startSeconds, endSeconds } of phrases) sung.fill(1, Math.max(0, Math.floor(startSeconds / hopSeconds)), Math.ceil(endSeconds / hopSeconds))
  const runs = runsOf(power.length, i => sung[i] === 0 && powerToDecibels(power[i]) > least)
  const joined: Stretch[] = []
  for (const { from, to } of runs) {
    const last = joined.at(-1)
    if (last && from * hopSeconds - last.endSeconds < JOIN_SECONDS) last.endSeconds = to * hopSeconds
    else joined.push({ startSeconds: from * hopSeconds, endSeconds: to * hopSeconds })
  }
  return joined.filter(breath => breath.endSeconds - breath.startSeconds >= LEAST_SECONDS)
}
