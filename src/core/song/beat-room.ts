/** Room that the beat makes for the voices: what of it gives way while they sing. */
import { z } from 'zod'

export const BEAT_ROOM_RANGES = {
  /** Round this, where the voice lives. */
  frequencyHz: { min: 200, max: 6_000 },
  bandQ: { min: 0.3, max: 3 },
  /** By so much the band is lowered at most, and all of the beat. */
  dipDecibels: { min: 0, max: 12 },
  levelDecibels: { min: 0, max: 9 },
  /** How fast it comes back when they rest: a time constant. */
  releaseSeconds: { min: 0.05, max: 2 },
} as const

const within = ({ min, max }: { min: number; max: number }) => z.number().min(min).max(max)
export const BeatRoomSchema = z.strictObject({
  frequencyHz: within(BEAT_ROOM_RANGES.frequencyHz),
  bandQ: within(BEAT_ROOM_RANGES.bandQ),
  dipDecibels: within(BEAT_ROOM_RANGES.dipDecibels),
  levelDecibels: within(BEAT_ROOM_RANGES.levelDecibels),
  releaseSeconds: within(BEAT_ROOM_RANGES.releaseSeconds),
})
export type BeatRoom = z.infer<typeof BeatRoomSchema>

/** Nothing gives way; what would, lies where words are understood by. */
export const NO_ROOM: BeatRoom = { frequencyHz: 1_800, bandQ: 0.6, dipDecibels: 0, levelDecibels: 0, releaseSeconds: 0.25 }
