/** How each role is told apart: a hue and a stitch, never the hue alone. */
import type { Role } from '../../core/song/schema'
import { useTheme } from './theme-store'

export interface RoleLook {
  /** The ribbon's core by day and by night. */
  day: string
  night: string
  /** The lighter halo of its peaks. */
  dayHalo: string
  nightHalo: string
  /** Dashes of its stitch, as for an SVG stroke; empty for a solid line. */
  dashes: number[]
  stitch: string
}

export const ROLE_LOOKS: Record<Role | 'beat', RoleLook> = {
  lead: { day: '#9B2F5B', night: '#D9749C', dayHalo: '#E0B4C8', nightHalo: '#5C2F45', dashes: [], stitch: 'solid' },
  double: { day: '#AE542A', night: '#DD8A5C', dayHalo: '#E8C4B0', nightHalo: '#5F3A28', dashes: [8, 4], stitch: 'dashed' },
  'high-harmony': { day: '#7553A3', night: '#B394E0', dayHalo: '#CFC0E4', nightHalo: '#463560', dashes: [2, 4], stitch: 'dotted' },
  'low-harmony': { day: '#3C608E', night: '#82A6D6', dayHalo: '#B7C8DE', nightHalo: '#2C3F5A', dashes: [8, 4, 2, 4], stitch: 'dash-dot' },
  octave: { day: '#3C608E', night: '#82A6D6', dayHalo: '#B7C8DE', nightHalo: '#2C3F5A', dashes: [8, 4, 2, 4], stitch: 'dash-dot' },
  'ad-lib': { day: '#886708', night: '#D0AE4E', dayHalo: '#DED0A0', nightHalo: '#52451D', dashes: [4, 2, 1, 2], stitch: 'zigzag' },
  spare: { day: '#776E66', night: '#A89C93', dayHalo: '#CDC6BF', nightHalo: '#453E41', dashes: [], stitch: 'thin' },
  beat: { day: '#4E6A45', night: '#8DB080', dayHalo: '#BFCDB8', nightHalo: '#34452F', dashes: [], stitch: 'no stitch' },
}

/** A role's colour in the theme of the moment. */
export function useRoleColour(role: Role | 'beat'): string {
  const theme = useTheme(state => state.theme)
  return ROLE_LOOKS[role][theme === 'day' ? 'day' : 'night']
}

export const ROLE_NAMES: Record<Role, string> = {
  lead: 'Lead',
  double: 'Double',
  'high-harmony': 'High harmony',
  'low-harmony': 'Low harmony',
  octave: 'Octave',
  'ad-lib': 'Ad-lib',
  spare: 'Spare',
}
