/** A pass's own tint as a small tab at the left of its name. */
import type { Take } from '../../core/song/schema'
import { useTheme } from '../theme/theme-store'
import { takeTint } from './take-tint'

export function TakeSwatch({ take }: { take: Take }) {
  const theme = useTheme(state => state.theme)
  return <span aria-hidden style={{ display: 'inline-block', flexShrink: 0, width: 4, height: 14, borderRadius: 2, background: takeTint(take.pass, theme) }} />
}
