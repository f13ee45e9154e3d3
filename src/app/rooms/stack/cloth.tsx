/** One patch of the quilt, drawn: woven in the role's stitch, a thin thread, an open hem, or a light weave where a voice is made. */
import type { Layer } from '../../../core/song/schema'
import { ROLE_LOOKS } from '../../theme/roles'
import { useTheme } from '../../theme/theme-store'

/** Bare: nothing is there and nothing is wanted; proposed: the usual plan would want something. */
export type PatchState = 'picked' | 'sung' | 'made' | 'wanted' | 'proposed' | 'bare'

export function Cloth({ role, state, isWanted = false }: { role: Layer['tint']; state: PatchState; isWanted?: boolean }) {
  const theme = useTheme(store => store.theme)
  const look = ROLE_LOOKS[role]
  const [core, halo] = theme === 'day' ? [look.day, look.dayHalo] : [look.night, look.nightHalo]
  const thread = theme === 'day' ? '#FFFBF5' : '#1C141F'
  const stitch = look.dashes.length > 0 ? look.dashes.join(' ') : undefined
  const hem = (opacity: number) => (
    <rect x="1" y="3" width="97%" height="17" rx="5" fill="none" stroke={core} strokeOpacity={opacity} strokeWidth="1.5" strokeDasharray="4 3" />
  )
  return (
    <svg width="100%" height="24" aria-hidden preserveAspectRatio="none">
      {state === 'picked' ? (
        <>
          <rect x="0" y="3" width="100%" height="18" rx="5" fill={core} />
          <line x1="5%" x2="95%" y1="12" y2="12" stroke={thread} strokeOpacity="0.75" strokeWidth="1.5" strokeDasharray={stitch} />
        </>
      ) : state === 'sung' ? (
        <rect x="0" y="8" width="100%" height="8" rx="4" fill={halo} />
      ) : state === 'made' ? (
        <>
          <rect x="0" y="3" width="100%" height="18" rx="5" fill={halo} />
          <line x1="5%" x2="95%" y1="12" y2="12" stroke={core} strokeWidth="2" strokeDasharray="1 5" strokeLinecap="round" />
        </>
      ) : state === 'wanted' ? (
        hem(1)
      ) : state === 'proposed' ? (
        hem(0.4)
      ) : (
        <line x1="46%" x2="54%" y1="12" y2="12" stroke="var(--chakra-colors-seamline)" strokeWidth="2" strokeLinecap="round" />
      )}
      {isWanted && state !== 'wanted' ? <line x1="2%" x2="98%" y1="22.5" y2="22.5" stroke={core} strokeWidth="2" strokeDasharray="4 3" /> : null}
    </svg>
  )
}
