/** Near and far: how far a layer stands, and what that does to its level, its air and its sends. */
import { z } from 'zod'

/** 0: right in front; 1: at the back of the stage. */
export const DISTANCE_RANGE = { min: 0, max: 1 } as const
export const DistanceSchema = z.number().min(DISTANCE_RANGE.min).max(DISTANCE_RANGE.max)

/** Decibels at the back of the stage; in between, as much of them as the layer is far. */
export const STAGE_RANGES = {
  levelDecibels: { min: -24, max: 0 },
  airDecibels: { min: -12, max: 0 },
  sendDecibels: { min: 0, max: 18 },
} as const

const within = ({ min, max }: { min: number; max: number }) => z.number().min(min).max(max)
export const StageSchema = z.strictObject({
  levelDecibels: within(STAGE_RANGES.levelDecibels),
  /** A shelf: air and distance take the heights of a voice first. */
  airDecibels: within(STAGE_RANGES.airDecibels),
  /** Into every space that the layer goes into. */
  sendDecibels: within(STAGE_RANGES.sendDecibels),
})
export type Stage = z.infer<typeof StageSchema>

/** Twice as far is 6 dB softer while the room's answer stays as loud: at the back four times as far, and half of it given back by the sends. */
export const USUAL_STAGE: Stage = { levelDecibels: -9, airDecibels: -6, sendDecibels: 9 }
