/** How a layer follows the lead's timing, and where in its takes the lead's syllables are. */
import { z } from 'zod'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { id, MAX_FRAME } from './fields'

/** 0: as sung; 1: every syllable with the lead's. */
export const TIGHTNESS_RANGE = { min: 0, max: 1 } as const
/** What doubles usually get. */
export const USUAL_TIGHTNESS = 0.7

/** Null: every line as it was sung. */
export const TogetherSchema = z
  .strictObject({
    tightness: z.number().min(TIGHTNESS_RANGE.min).max(TIGHTNESS_RANGE.max),
    /** Lines that stay as they were sung; they may be gone. */
    apart: z.array(id.brand<'LineId'>()).max(2_000),
    /** The ends of phrases lie with the lead's, however loosely the rest follows. */
    endsTogether: z.boolean(),
  })
  .nullable()
export type Together = NonNullable<z.infer<typeof TogetherSchema>>

/** Nothing is moved further by the lead. */
export const MOST_LED_FRAMES = 0.3 * SAMPLE_RATE_HZ
/** A line that is a section of its own may be minutes long. */
export const MOST_PLACES = 6_000
export const MOST_PATHS = 4_000
export const MOST_BASIS_LETTERS = 4_000

/** Where the lead's syllables are in a take, over one line. It is stale where the lead or the take came to lie otherwise since: `basis` says how they lay. */
const LedPathSchema = z.strictObject({
  takeId: id.brand<'TakeId'>(),
  lineId: id.brand<'LineId'>(),
  basis: z.string().max(MOST_BASIS_LETTERS),
  /** Frames of the take's asset, in order, and by how much later the lead has it. */
  places: z
    .array(
      z.tuple([
        z
          .number()
          .int()
          .min(0)
          .max(2 * MAX_FRAME),
        z.number().int().min(-MOST_LED_FRAMES).max(MOST_LED_FRAMES),
      ]),
    )
    .max(MOST_PLACES),
})
export type LedPath = z.infer<typeof LedPathSchema>
export const LedPathsSchema = z.array(LedPathSchema).max(MOST_PATHS)
