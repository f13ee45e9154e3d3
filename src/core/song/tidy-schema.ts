/** How a layer is tidied and tuned, and what was found in a take that this is laid over. */
import { z } from 'zod'
import { id, MAX_FRAME } from './fields'

/** 0 leaves it, -60 takes it out. */
export const TIDY_RANGE_DECIBELS = { min: -60, max: 0 } as const
const lowered = z.number().min(TIDY_RANGE_DECIBELS.min).max(TIDY_RANGE_DECIBELS.max)

const TidyPolicySchema = z.strictObject({
  breathDecibels: lowered,
  essDecibels: lowered,
  /** Of what of a pop lies below the voice. */
  popDecibels: lowered,
  /** Between the phrases, where nothing is sung. */
  restDecibels: lowered,
  mendsClicks: z.boolean(),
  /** A noise between the phrases gives way to the room's own tone. */
  fillsNoises: z.boolean(),
  /** Tops that were cut off are drawn anew. */
  roundsClips: z.boolean(),
  /** The consonants that phrases end with. */
  finalDecibels: lowered,
  /** A phrase that is held longer than the lead's fades out where the lead's ends. */
  endsWithLead: z.boolean(),
})
export type TidyPolicy = z.infer<typeof TidyPolicySchema>

export const TUNE_RANGES = {
  /** Within so long a note is drawn to its rung: what it does faster than that is kept. 0: at once. */
  speedMilliseconds: { min: 0, max: 400 },
  /** Share of the way that is gone. */
  amount: { min: 0, max: 1 },
  /** A note that is nearer to its rung is left as it was sung. */
  toleranceCents: { min: 0, max: 50 },
  /** Shares of the vibrato and of the glides into, between and out of notes that stay. */
  vibratoKept: { min: 0, max: 1 },
  glidesKept: { min: 0, max: 1 },
  /** Formants up or down, whatever the pitch does: a smaller or a larger throat. */
  throatSemitones: { min: -6, max: 6 },
} as const

const within = ({ min, max }: { min: number; max: number }) => z.number().min(min).max(max)
export const TuneSettingsSchema = z.strictObject({
  speedMilliseconds: within(TUNE_RANGES.speedMilliseconds),
  amount: within(TUNE_RANGES.amount),
  toleranceCents: within(TUNE_RANGES.toleranceCents),
  vibratoKept: within(TUNE_RANGES.vibratoKept),
  glidesKept: within(TUNE_RANGES.glidesKept),
  throatSemitones: within(TUNE_RANGES.throatSemitones),
})
export type TuneSettings = z.infer<typeof TuneSettingsSchema>

/**
 * What notes are drawn to: the rungs of the key; the notes of the chord that sounds; the notes that another layer sings, in whatever octave; the
 * layer's own part, as it was written, played or brought in.
 * Where the other says nothing, the key does. The layer named may be gone.
 */
const TuneToSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('key') }),
  z.strictObject({ kind: z.literal('chord') }),
  z.strictObject({ kind: z.literal('layer'), layerId: id.brand<'LayerId'>() }),
  z.strictObject({ kind: z.literal('part') }),
])
export type TuneTo = z.infer<typeof TuneToSchema>

const MOST_LINES = 2_000
const LayerTuneSettingsSchema = TuneSettingsSchema.extend({
  to: TuneToSchema,
  /** Lines that are otherwise; they may be gone. */
  lines: z.array(z.strictObject({ lineId: id.brand<'LineId'>(), to: TuneToSchema })).max(MOST_LINES),
})
export type LayerTune = z.infer<typeof LayerTuneSettingsSchema>

/** Null: as sung. */
export const LayerTidySchema = TidyPolicySchema.nullable()
export const LayerTuneSchema = LayerTuneSettingsSchema.nullable()

const assetFrame = z
  .number()
  .int()
  .min(0)
  .max(2 * MAX_FRAME)
export const MOST_FOUND = 20_000
const stretches = z.array(z.tuple([assetFrame, assetFrame])).max(MOST_FOUND)
const cents = z.number().min(-2_000).max(15_000)

/** In frames of the take's asset. Kept with the song, so that another reading of the same take never changes how it sounds. */
export const HeardSchema = z.strictObject({
  /** How far it was listened to. */
  frames: assetFrame,
  phrases: stretches,
  breaths: stretches,
  esses: stretches,
  pops: stretches,
  clicks: stretches,
  noises: stretches,
  finals: stretches,
  clipped: stretches,
  /** Start, end, from where and to where it is held, cents (6900 is 440 Hz), half its vibrato's width in cents, its rate in hertz. */
  notes: z.array(z.tuple([assetFrame, assetFrame, assetFrame, assetFrame, cents, z.number().min(0).max(2_000), z.number().min(0).max(50)])).max(MOST_FOUND),
})
export type Heard = z.infer<typeof HeardSchema>
