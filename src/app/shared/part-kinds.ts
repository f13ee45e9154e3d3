/** Parts by name, and which a role usually sings. */
import type { PartKind } from '../../core/parts/part'
import type { Role } from '../../core/song/schema'

export type WrittenKind = Exclude<PartKind, 'unison'> | 'held'

export const PART_NAMES: Record<WrittenKind, string> = {
  'third-above': 'a third above',
  'third-below': 'a third below',
  'fifth-above': 'a fifth above',
  'sixth-above': 'a sixth above',
  'sixth-below': 'a sixth below',
  'octave-above': 'an octave above',
  'octave-below': 'an octave below',
  held: 'a held note of the chord',
}

export function usualKind(role: Role): WrittenKind {
  return role === 'low-harmony' ? 'third-below' : role === 'octave' ? 'octave-below' : 'third-above'
}
