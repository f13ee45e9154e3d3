/** What a song keeps of its mix: recipes as rows of steps, spaces, sends and rides. */
import { z } from 'zod'
import { CompressorSettingsSchema } from '../effects/compressor'
import { DeEsserSettingsSchema } from '../effects/de-esser'
import { EchoSettingsSchema } from '../effects/echo'
import { EqualiserSettingsSchema } from '../effects/equaliser'
import { DynamicBandSettingsSchema } from '../effects/dynamic-band'
import { AirSettingsSchema, HighCutSettingsSchema, LowCutSettingsSchema } from '../effects/filters'
import { GateSettingsSchema } from '../effects/gate'
import { LimiterSettingsSchema } from '../effects/limiter'
import { PressSettingsSchema } from '../effects/press'
import { ReverbSettingsSchema } from '../effects/reverb'
import { SaturationSettingsSchema } from '../effects/saturation'
import { WashSettingsSchema } from '../effects/wash'
import { WidthSettingsSchema } from '../effects/width'
import { AnchorSchema } from './anchor'
import { frame, gainDecibels, id, name, pan } from './fields'

const StepIdSchema = id.brand<'StepId'>()
export type StepId = z.infer<typeof StepIdSchema>
export const SpaceIdSchema = id.brand<'SpaceId'>()
export type SpaceId = z.infer<typeof SpaceIdSchema>

const inRow = { id: StepIdSchema, enabled: z.boolean() }
/** One effect of a recipe with its settings. */
export const RecipeStepSchema = z.discriminatedUnion('kind', [
  LowCutSettingsSchema.extend({ kind: z.literal('low-cut'), ...inRow }),
  GateSettingsSchema.extend({ kind: z.literal('gate'), ...inRow }),
  DeEsserSettingsSchema.extend({ kind: z.literal('de-esser'), ...inRow }),
  CompressorSettingsSchema.extend({ kind: z.literal('compressor'), ...inRow }),
  EqualiserSettingsSchema.extend({ kind: z.literal('equaliser'), ...inRow }),
  SaturationSettingsSchema.extend({ kind: z.literal('saturation'), ...inRow }),
  AirSettingsSchema.extend({ kind: z.literal('air'), ...inRow }),
  HighCutSettingsSchema.extend({ kind: z.literal('high-cut'), ...inRow }),
  DynamicBandSettingsSchema.extend({ kind: z.literal('dynamic-band'), ...inRow }),
  WashSettingsSchema.extend({ kind: z.literal('wash'), ...inRow }),
  WidthSettingsSchema.extend({ kind: z.literal('width'), ...inRow }),
  LimiterSettingsSchema.extend({ kind: z.literal('limiter'), ...inRow }),
])
export type RecipeStep = z.infer<typeof RecipeStepSchema>

export const MOST_STEPS = 12
/** The sound goes through its steps from first to last. */
export const RecipeSchema = z.strictObject({
  enabled: z.boolean(),
  /** How much of it: at 0 nothing is done, at 1 every step does what it is set to. */
  amount: z.number().min(0).max(1),
  steps: z.array(RecipeStepSchema).max(MOST_STEPS),
})
export type Recipe = z.infer<typeof RecipeSchema>

export const ECHO_BEATS_RANGE = { min: 0.0625, max: 4 } as const
export const DUCK_RANGES = {
  /** By so much the answer is held down while the voices that go into the space sound. */
  duckDecibels: { min: 0, max: 24 },
  /** How fast it comes up when they rest: a time constant. */
  duckReleaseSeconds: { min: 0.05, max: 2 },
} as const
const within = ({ min, max }: { min: number; max: number }) => z.number().min(min).max(max)
const aSpace = {
  id: SpaceIdSchema,
  name,
  gainDecibels,
  duckDecibels: within(DUCK_RANGES.duckDecibels),
  duckReleaseSeconds: within(DUCK_RANGES.duckReleaseSeconds),
  /** Another space that its answer goes into as well, never back to itself. */
  feeds: z.strictObject({ spaceId: SpaceIdSchema, gainDecibels }).nullable(),
}
/** What layers are sent into. An echo's time is counted in beats of the song's tempo, unless that is null. */
export const SpaceSchema = z.discriminatedUnion('kind', [
  ReverbSettingsSchema.extend({ kind: z.literal('plate'), ...aSpace }),
  ReverbSettingsSchema.extend({ kind: z.literal('room'), ...aSpace }),
  ReverbSettingsSchema.extend({ kind: z.literal('hall'), ...aSpace }),
  PressSettingsSchema.extend({ kind: z.literal('press'), ...aSpace }),
  EchoSettingsSchema.extend({ kind: z.literal('echo'), ...aSpace, delayBeats: z.number().min(ECHO_BEATS_RANGE.min).max(ECHO_BEATS_RANGE.max).nullable() }),
])
export type Space = z.infer<typeof SpaceSchema>
export const MOST_SPACES = 12

/**
 * A value that moves over the song: in straight lines from point to point, level before the first and after the last. Its unit is that of
 * what it moves.
 */
const laneOf = (value: z.ZodNumber) =>
  z
    .array(z.strictObject({ frame, value }))
    .max(5_000)
    .refine(points => points.every((point, i) => i === 0 || point.frame > points[i - 1].frame), 'points in rising order')
/** Decibels. */
export const LevelRideSchema = laneOf(gainDecibels)
/** -1 is left, 1 is right. */
export const PanRideSchema = laneOf(pan)
export type LanePoint = z.infer<typeof LevelRideSchema>[number]

/** How loud a layer goes into each space; into those that are not named it does not go. A ride that has points stands for the level. */
export const SendsSchema = z.array(z.strictObject({ spaceId: SpaceIdSchema, gainDecibels, ride: LevelRideSchema })).max(MOST_SPACES)
export type Send = z.infer<typeof SendsSchema>[number]

/** What becomes of a thrown word's answer when the layer sings its next line: it rings on, is held down while the line is sung, or has ended. */
export const THROW_TAILS = ['rings', 'ducks', 'ends'] as const
export type ThrowTail = (typeof THROW_TAILS)[number]
const ThrowIdSchema = id.brand<'ThrowId'>()
export type ThrowId = z.infer<typeof ThrowIdSchema>
/** Words of a layer that go into a space as they are sung, besides what the layer sends there. Their line may be gone. */
export const ThrowsSchema = z
  .array(z.strictObject({ id: ThrowIdSchema, on: AnchorSchema, spaceId: SpaceIdSchema, gainDecibels, tail: z.enum(THROW_TAILS) }))
  .max(500)
export type Throw = z.infer<typeof ThrowsSchema>[number]

export const COLOUR_FADE_RANGE_SECONDS = { min: 0.005, max: 2 } as const
const ColourIdSchema = id.brand<'ColourId'>()
export type ColourId = z.infer<typeof ColourIdSchema>
/** Stretches of a layer, each with a recipe of its own that the voice goes through there. Their words or section may be gone. */
export const ColoursSchema = z
  .array(
    z.strictObject({
      id: ColourIdSchema,
      name,
      on: z.union([AnchorSchema, z.strictObject({ sectionId: id.brand<'SectionId'>() })]),
      amount: z.number().min(0).max(1),
      fadeSeconds: within(COLOUR_FADE_RANGE_SECONDS),
      steps: z.array(RecipeStepSchema).max(MOST_STEPS),
    }),
  )
  .max(200)
export type Colour = z.infer<typeof ColoursSchema>[number]
