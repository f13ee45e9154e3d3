/** The notes that a layer is to sing, and whether a voice that nobody sang sings them. */
import { z } from 'zod'
import { frame } from './fields'

const PartNoteSchema = z.strictObject({ startFrame: frame, endFrame: frame, midi: z.number().int().min(0).max(127) })
/** In frames of the song. */
export type PlacedPartNote = z.infer<typeof PartNoteSchema>

export const MOST_PART_NOTES = 4_000
export const PartSchema = z
  .array(PartNoteSchema)
  .max(MOST_PART_NOTES)
  .refine(
    notes => notes.every((note, i) => note.endFrame > note.startFrame && (i === 0 || note.startFrame >= notes[i - 1].endFrame)),
    'notes in order, without overlap',
  )

export const MADE_THROAT_RANGE = { min: -6, max: 6 } as const
/** Where the layer plays no take, its part is sung by a voice made from the lead, or sounds as a tone; null: the part is only a guide to sing to. */
export const MadeSchema = z
  .strictObject({
    sound: z.enum(['lead', 'tone']),
    throatSemitones: z.number().min(MADE_THROAT_RANGE.min).max(MADE_THROAT_RANGE.max),
    seed: z.number().int().min(0).max(1_000_000),
  })
  .nullable()
export type Made = NonNullable<z.infer<typeof MadeSchema>>
