/** Day or night; and the plain buttons of the slim bar. */
import { chakra } from '@chakra-ui/react'
import { useTheme } from './theme-store'

export const BarButton = chakra('button', {
  base: {
    color: 'ink.soft',
    px: 1,
    borderRadius: '6px',
    display: 'inline-flex',
    alignItems: 'center',
    gap: 1,
    cursor: 'pointer',
    whiteSpace: 'nowrap',
    _hover: { color: 'ink' },
    _disabled: { opacity: 0.55, cursor: 'default' },
  },
})

export function ThemeButton() {
  const { theme, toggle } = useTheme()
  return <BarButton onClick={toggle}>{theme === 'day' ? 'Night' : 'Day'}</BarButton>
}
