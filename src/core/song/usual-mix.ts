/** The settings a new song starts with: the recipe of all voices and the spaces. */
import { USUAL_COMPRESSOR } from '../effects/compressor'
import { USUAL_ECHO } from '../effects/echo'
import { USUAL_AIR, USUAL_LOW_CUT } from '../effects/filters'
import { USUAL_PLATE, USUAL_ROOM } from '../effects/reverb'
import type { Recipe, Space, SpaceId, StepId } from './mix-schema'

export const EMPTY_RECIPE: Recipe = { enabled: true, amount: 1, steps: [] }

/** Set by ear on the demo song. Ids need only differ within one recipe. */
export const DEFAULT_RECIPE: Recipe = {
  enabled: true,
  amount: 1,
  steps: [
    { id: 'low-cut' as StepId, kind: 'low-cut', enabled: true, ...USUAL_LOW_CUT },
    { id: 'compressor' as StepId, kind: 'compressor', enabled: true, ...USUAL_COMPRESSOR },
    { id: 'air' as StepId, kind: 'air', enabled: true, ...USUAL_AIR },
  ],
}

/** The space that a layer is sent into unless the singer decides otherwise. */
export const PLATE_ID = 'plate' as SpaceId

/** A space that answers freely: what every new one begins with. */
export const FREE = { gainDecibels: 0, duckDecibels: 0, duckReleaseSeconds: 0.3, feeds: null }

export const DEFAULT_SPACES: Space[] = [
  { id: PLATE_ID, kind: 'plate', name: 'Plate', ...FREE, ...USUAL_PLATE },
  { id: 'room' as SpaceId, kind: 'room', name: 'Room', ...FREE, ...USUAL_ROOM },
  { id: 'echo' as SpaceId, kind: 'echo', name: 'Echo', ...FREE, ...USUAL_ECHO, delayBeats: 1 },
]
