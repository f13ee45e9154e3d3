/** A pass's own tint as a small tab at the left of its name. */
import { Box } from '@chakra-ui/react'
import type { Take } from '../../core/song/schema'
import { useTheme } from '../theme/theme-store'
import { takeTint } from './take-tint'

export function TakeSwatch({ take }: { take: Take }) {
  const theme = useTheme(state => state.theme)
  return <Box as="span" aria-hidden display="inline-block" flexShrink={0} width="4px" height="14px" borderRadius="2px" style={{ background: takeTint(take.pass, theme) }} />
}
