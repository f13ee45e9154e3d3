/** A template's voices as stitches from left to right, the lead in front. */
import type { Template } from '../../core/layers/template-schema'
import { ROLE_LOOKS } from '../theme/roles'
import { useTheme } from '../theme/theme-store'

const WIDTH = 84
const HEIGHT = 34
/** How far up a voice stands, by its role: high ones above, low ones below. */
const HEIGHTS = { lead: 0.5, double: 0.5, 'high-harmony': 0.22, 'low-harmony': 0.78, octave: 0.92, 'ad-lib': 0.08, spare: 0.95 } as const

export function TemplatePicture({ template: { layers } }: { template: Template }) {
  const theme = useTheme(state => state.theme)
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden style={{ flexShrink: 0 }}>
      {layers.map(({ name, role, tint, pan }, i) => {
        const look = ROLE_LOOKS[tint]
        const length = role === 'lead' ? 22 : 14
        const x = WIDTH / 2 + pan * (WIDTH / 2 - length / 2 - 2)
        // Two that stand on each other are both seen.
        const y = HEIGHT * HEIGHTS[role] + (role === 'lead' ? 0 : ((i % 3) - 1) * 2)
        return (
          <line
            key={name}
            x1={x - length / 2}
            x2={x + length / 2}
            y1={y}
            y2={y}
            stroke={theme === 'day' ? look.day : look.night}
            strokeWidth={role === 'lead' ? 5 : 3}
            strokeDasharray={look.dashes.map(dash => dash / 2).join(' ')}
          />
        )
      })}
    </svg>
  )
}
