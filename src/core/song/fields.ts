/** What fields of the document are made of. */
import { z } from 'zod'
import { SAMPLE_RATE_HZ } from '../audio/frames'

/** Levels run from silence to a little gain; -60 and below is off. */
export const GAIN_RANGE_DECIBELS = { min: -60, max: 12 } as const
/** An hour. */
export const MAX_FRAME = SAMPLE_RATE_HZ * 60 * 60

export const id = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/)
export const frame = z.number().int().min(-MAX_FRAME).max(MAX_FRAME)
export const gainDecibels = z.number().min(GAIN_RANGE_DECIBELS.min).max(GAIN_RANGE_DECIBELS.max)
/** -1 is left, 1 is right. */
export const pan = z.number().min(-1).max(1)
/** Of sections of the sheet; null: all of them. */
export const sings = z.array(z.string().min(1).max(120)).max(50).nullable()
export const name = z.string().max(120)
