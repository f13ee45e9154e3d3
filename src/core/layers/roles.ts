/** Roles of layers, and where each sits unless the singer decides otherwise. */
import { USUAL_COMPRESSOR } from '../effects/compressor'
import { USUAL_LOW_CUT } from '../effects/filters'
import { USUAL_DE_ESSER } from '../effects/de-esser'
import type { RecipeStep, StepId } from '../song/mix-schema'
import type { Role } from '../song/schema'

export const ROLES: readonly Role[] = ['lead', 'double', 'high-harmony', 'low-harmony', 'octave', 'ad-lib', 'spare']

/** Names of the buses that gather the layers of a role. */
export const BUS_NAMES: Record<Role, string> = {
  lead: 'Lead',
  double: 'Doubles',
  'high-harmony': 'High harmonies',
  'low-harmony': 'Low harmonies',
  octave: 'Octaves',
  'ad-lib': 'Ad-libs',
  spare: 'Spares',
}

export interface Placement {
  gainDecibels: number
  pan: number
  sendDecibels: number
}

/** Levels and sends set by ear on the demo song: the lead in front, the stack behind and wide. */
export const ROLE_PLACEMENT: Record<Role, Placement> = {
  lead: { gainDecibels: 0, pan: 0, sendDecibels: -18 },
  double: { gainDecibels: -9, pan: 0, sendDecibels: -20 },
  'high-harmony': { gainDecibels: -10, pan: 0, sendDecibels: -15 },
  'low-harmony': { gainDecibels: -11, pan: 0, sendDecibels: -15 },
  octave: { gainDecibels: -13, pan: 0, sendDecibels: -16 },
  'ad-lib': { gainDecibels: -8, pan: 0, sendDecibels: -12 },
  spare: { gainDecibels: -6, pan: 0, sendDecibels: -20 },
}

/** Ids need only differ within one recipe. */
const lead: RecipeStep[] = [{ id: 'de-esser' as StepId, kind: 'de-esser', enabled: true, ...USUAL_DE_ESSER }]
/** A stack stays out of the lead's low end, hisses once and not four times, and is pressed less than the lead. */
const stack = (cutoffHz: number, ratio: number): RecipeStep[] => [
  { id: 'low-cut' as StepId, kind: 'low-cut', enabled: true, ...USUAL_LOW_CUT, cutoffHz },
  { id: 'de-esser' as StepId, kind: 'de-esser', enabled: true, ...USUAL_DE_ESSER, thresholdDecibels: -34, rangeDecibels: 12 },
  { id: 'compressor' as StepId, kind: 'compressor', enabled: true, ...USUAL_COMPRESSOR, ratio, thresholdDecibels: -20, makeupDecibels: 1 },
]

/** What each role goes through before all voices together; set by hand. */
export const ROLE_RECIPES: Record<Role, readonly RecipeStep[]> = {
  lead,
  double: stack(140, 1.7),
  'high-harmony': stack(180, 1.5),
  'low-harmony': stack(120, 1.5),
  octave: stack(160, 1.5),
  'ad-lib': stack(180, 2),
  spare: [],
}
