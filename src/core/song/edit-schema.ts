/** What is laid over a take. Every frame counts from the start of the take's asset: placing or choosing the take again moves the edits along. */
import { z } from 'zod'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { gainDecibels, id, MAX_FRAME } from './fields'
import { TIDY_RANGE_DECIBELS } from './tidy-schema'

const EditIdSchema = id.brand<'EditId'>()
export type EditId = z.infer<typeof EditIdSchema>

const assetFrame = z
  .number()
  .int()
  .min(0)
  .max(2 * MAX_FRAME)
const stretch = { id: EditIdSchema, startFrame: assetFrame, endFrame: assetFrame }
const MOST_EDITS = 5_000

export const FADE_RANGE_FRAMES = { min: 48, max: SAMPLE_RATE_HZ } as const
/** Added to the take's own level from start to end, faded in and out inside. They may overlap, and then add up. */
const GainEditSchema = z.strictObject({ ...stretch, gainDecibels, fadeFrames: z.number().int().min(FADE_RANGE_FRAMES.min).max(FADE_RANGE_FRAMES.max) })
export type GainEdit = z.infer<typeof GainEditSchema>

export const SHIFT_RANGE_CENTS = { min: -1_200, max: 1_200 } as const
export const RUNG_RANGE_CENTS = { min: 0, max: 12_700 } as const
/**
 * The voice is higher by so much from start to end; its formants and its time stay. Where the layer is tuned, a note with a rung of its own
 * (cents, 6900 is 440 Hz) is drawn to that instead, and one without is left to its shift.
 */
const NoteEditSchema = z.strictObject({
  ...stretch,
  shiftCents: z.number().min(SHIFT_RANGE_CENTS.min).max(SHIFT_RANGE_CENTS.max),
  rungCents: z.number().min(RUNG_RANGE_CENTS.min).max(RUNG_RANGE_CENTS.max).nullable(),
})
export type NoteEdit = z.infer<typeof NoteEditSchema>

/** A quarter of a second: what is moved is joined to what stays over twice as long. */
export const MOST_LATER_FRAMES = SAMPLE_RATE_HZ / 4
/** What lies at a frame sounds so much later; between two such places it is stretched. Pitch and formants stay. */
const TimeEditSchema = z.strictObject({
  id: EditIdSchema,
  frame: assetFrame,
  laterFrames: z.number().int().min(-MOST_LATER_FRAMES).max(MOST_LATER_FRAMES),
})
export type TimeEdit = z.infer<typeof TimeEditSchema>

export const MEND_KINDS = ['breath', 'ess', 'pop', 'rest', 'click', 'noise', 'clip', 'final', 'end'] as const
export type MendKind = (typeof MEND_KINDS)[number]
/** One mend of the layer's policy that is to be otherwise in this take: another amount, or null: not at all. Named by where it begins. */
const MendEditSchema = z.strictObject({
  kind: z.enum(MEND_KINDS),
  startFrame: assetFrame,
  decibels: z.number().min(TIDY_RANGE_DECIBELS.min).max(TIDY_RANGE_DECIBELS.max).nullable(),
})
export type MendEdit = z.infer<typeof MendEditSchema>

const rising = (edits: readonly { startFrame: number; endFrame: number }[]) =>
  edits.every((edit, i) => edit.endFrame > edit.startFrame && (i === 0 || edit.startFrame >= edits[i - 1].endFrame))

export const TakeEditsSchema = z.strictObject({
  gains: z
    .array(GainEditSchema)
    .max(MOST_EDITS)
    .refine(edits => edits.every(edit => edit.endFrame > edit.startFrame), 'an end after the start'),
  notes: z.array(NoteEditSchema).max(MOST_EDITS).refine(rising, 'notes in order, without overlap'),
  times: z
    .array(TimeEditSchema)
    .max(MOST_EDITS)
    .refine(
      edits => edits.every((edit, i) => i === 0 || edit.frame + edit.laterFrames > edits[i - 1].frame + edits[i - 1].laterFrames),
      'places that stay in order where they are moved',
    ),
  mends: z.array(MendEditSchema).max(MOST_EDITS),
})
export type TakeEdits = z.infer<typeof TakeEditsSchema>

export const NO_EDITS: TakeEdits = { gains: [], notes: [], times: [], mends: [] }
