/** The look: colours by day ("linen") and by night ("velvet"), type, shapes. */
import { createSystem, defaultConfig, defineConfig } from '@chakra-ui/react'

const dayNight = (day: string, night: string) => ({ value: { base: day, _dark: night } })

const config = defineConfig({
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Figtree Variable', system-ui, sans-serif" },
        heading: { value: "'Fraunces Variable', Georgia, serif" },
      },
      radii: { card: { value: '14px' } },
    },
    semanticTokens: {
      colors: {
        ground: dayNight('#F5EFE6', '#1C141F'),
        card: dayNight('#FFFBF5', '#281D2C'),
        sunken: dayNight('#EAE1D3', '#150F18'),
        ink: { DEFAULT: dayNight('#2A1F2D', '#F4EAE2'), soft: dayNight('#655668', '#B9A9B6') },
        seamline: dayNight('#D6C8B6', '#46364A'),
        brand: { DEFAULT: dayNight('#8E2A54', '#E58CAE'), ink: dayNight('#FFFBF5', '#2A1220') },
        record: { DEFAULT: dayNight('#C62F26', '#FF6F61'), ink: dayNight('#FFFFFF', '#2A0E0B') },
        ok: dayNight('#2F6F45', '#7CC79A'),
        warn: dayNight('#855000', '#F0B65A'),
        bg: {
          DEFAULT: dayNight('#F5EFE6', '#1C141F'),
          panel: dayNight('#FFFBF5', '#281D2C'),
          subtle: dayNight('#EAE1D3', '#150F18'),
          muted: dayNight('#EAE1D3', '#150F18'),
        },
        fg: { DEFAULT: dayNight('#2A1F2D', '#F4EAE2'), muted: dayNight('#655668', '#B9A9B6') },
        border: { DEFAULT: dayNight('#D6C8B6', '#46364A') },
      },
      shadows: { card: { value: { base: '0 1px 3px rgba(60, 40, 50, 0.10)', _dark: '0 1px 3px rgba(0, 0, 0, 0.5)' } } },
    },
  },
  globalCss: {
    'html, body, #root': { height: '100%', overflow: 'hidden' },
    body: { bg: 'ground', color: 'ink', fontFamily: 'body', fontSize: '14px', lineHeight: 1.45, fontVariantNumeric: 'tabular-nums' },
    '*:focus-visible': { outline: '2px solid', outlineColor: 'brand', outlineOffset: '2px' },
    '*, *::before, *::after': {
      '@media (prefers-reduced-motion: reduce)': { animationDuration: '0.01ms !important', transitionDuration: '0.01ms !important' },
    },
  },
})

export const system = createSystem(defaultConfig, config)
