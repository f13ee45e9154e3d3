/** A mix that is kept under a name: every value of it, beside those of the song. */
import { z } from 'zod'
import { BeatRoomSchema } from './beat-room'
import { gainDecibels, id, name, pan } from './fields'
import { ColoursSchema, LevelRideSchema, MOST_SPACES, PanRideSchema, RecipeSchema, SendsSchema, SpaceSchema, ThrowsSchema } from './mix-schema'
import { RoleSchema } from './role-schema'
import { DistanceSchema, StageSchema } from './stage-schema'

/** What of a layer is mixed. */
const LayerMixSchema = z.strictObject({
  gainDecibels,
  ride: LevelRideSchema,
  pan,
  panRide: PanRideSchema,
  distance: DistanceSchema,
  muted: z.boolean(),
  recipe: RecipeSchema,
  sends: SendsSchema,
  throws: ThrowsSchema,
  colours: ColoursSchema,
})

export const BusesSchema = z.array(z.strictObject({ role: RoleSchema, name, gainDecibels, recipe: RecipeSchema })).max(16)
export const VocalBusSchema = z.strictObject({ gainDecibels, recipe: RecipeSchema })
export const SpacesSchema = z.array(SpaceSchema).max(MOST_SPACES)
/** What the whole mix goes through, voices and beat, and what it never exceeds. */
export const OutputSchema = z.strictObject({ recipe: RecipeSchema, ceilingDbfs: z.number().min(-12).max(0) })

const MixValuesSchema = z.strictObject({
  beat: z.strictObject({ gainDecibels, pan, muted: z.boolean(), room: BeatRoomSchema }),
  /** Of the layers that there were; they may be gone. */
  layers: z.array(LayerMixSchema.extend({ layerId: id.brand<'LayerId'>() })).max(64),
  buses: BusesSchema,
  vocalBus: VocalBusSchema,
  spaces: SpacesSchema,
  stage: StageSchema,
  output: OutputSchema,
})
export type MixValues = z.infer<typeof MixValuesSchema>
export type LayerMix = z.infer<typeof LayerMixSchema>

const MixIdSchema = id.brand<'MixId'>()
export type MixId = z.infer<typeof MixIdSchema>
export const MOST_MIXES = 12
export const KeptMixesSchema = z.array(z.strictObject({ id: MixIdSchema, name: name.min(1), values: MixValuesSchema })).max(MOST_MIXES)
export type KeptMix = z.infer<typeof KeptMixesSchema>[number]
