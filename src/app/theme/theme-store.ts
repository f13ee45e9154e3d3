/** Day or night: the singer's choice, else the machine's. */
import { create } from 'zustand'

export type Theme = 'day' | 'night'
const STORED = 'plush-theme'

function firstTheme(): Theme {
  const stored = localStorage.getItem(STORED)
  if (stored === 'day' || stored === 'night') return stored
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day'
}

function wear(theme: Theme): void {
  document.documentElement.classList.toggle('dark', theme === 'night')
  document.documentElement.classList.toggle('light', theme === 'day')
  document.documentElement.style.colorScheme = theme === 'night' ? 'dark' : 'light'
}

interface ThemeState {
  theme: Theme
  toggle: () => void
}

export const useTheme = create<ThemeState>((set, get) => ({
  theme: firstTheme(),
  toggle: () => {
    const theme = get().theme === 'day' ? 'night' : 'day'
    localStorage.setItem(STORED, theme)
    wear(theme)
    set({ theme })
  },
}))
wear(useTheme.getState().theme)
