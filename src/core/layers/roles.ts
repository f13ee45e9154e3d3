/** Roles of layers, and where each sits unless the singer decides otherwise. */
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
