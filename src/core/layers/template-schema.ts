/** A template: what a song has beyond its sound and its words. */
import { z } from 'zod'
import { BeatRoomSchema } from '../song/beat-room'
import { gainDecibels, name, pan, sings } from '../song/fields'
import { BusesSchema, OutputSchema, SpacesSchema, VocalBusSchema } from '../song/kept-mix-schema'
import { MOST_SPACES, RecipeSchema, SpaceIdSchema } from '../song/mix-schema'
import { RoleSchema } from '../song/role-schema'
import { DistanceSchema, StageSchema } from '../song/stage-schema'
import { LayerTidySchema, TuneSettingsSchema } from '../song/tidy-schema'
import { TIGHTNESS_RANGE } from '../song/together-schema'

const TemplateLayerSchema = z.strictObject({
  name: name.min(1),
  role: RoleSchema,
  tint: RoleSchema,
  gainDecibels,
  pan,
  distance: DistanceSchema,
  tidy: LayerTidySchema,
  /** Null: as sung. To the key, the chord, or its own part. */
  tune: TuneSettingsSchema.extend({ to: z.strictObject({ kind: z.enum(['key', 'chord', 'part']) }) }).nullable(),
  /** How tightly it follows the lead; null: as sung. */
  together: z.strictObject({ tightness: z.number().min(TIGHTNESS_RANGE.min).max(TIGHTNESS_RANGE.max), endsTogether: z.boolean() }).nullable(),
  recipe: RecipeSchema,
  sends: z.array(z.strictObject({ spaceId: SpaceIdSchema, gainDecibels })).max(MOST_SPACES),
  /** The sections that it is to sing, by their names without a number, in small letters; null: all of them. */
  sings,
})
export type TemplateLayer = z.infer<typeof TemplateLayerSchema>

/** How the Booth is set up for such songs. */
const TemplateBoothSchema = z.strictObject({
  surround: z.enum(['beat', 'comp', 'lead', 'stack']),
  guide: z.enum(['voice', 'tone', 'off']),
  click: z.enum(['always', 'count-in', 'never']),
  countInBars: z.number().int().min(0).max(2),
  preRollBars: z.number().int().min(0).max(4),
})
export type TemplateBooth = z.infer<typeof TemplateBoothSchema>

export const MOST_TEMPLATE_LAYERS = 32
export const BareTemplateSchema = z.strictObject({
  name: name.min(1),
  /** What it is for. */
  says: z.string().max(300),
  layers: z.array(TemplateLayerSchema).min(1).max(MOST_TEMPLATE_LAYERS),
  buses: BusesSchema,
  vocalBus: VocalBusSchema,
  spaces: SpacesSchema,
  stage: StageSchema,
  output: OutputSchema,
  beat: z.strictObject({ gainDecibels, room: BeatRoomSchema }),
  booth: TemplateBoothSchema.nullable(),
  /** How files are named; null: as the singer has it. */
  pattern: name.min(1).nullable(),
})
export type Template = z.infer<typeof BareTemplateSchema>
