/** The Booth's keys, and the one that works from anywhere: sing this line again. */
import { useEffect } from 'react'
import { isTyping } from '../../frame/use-song-keys'
import { setBooth, useBoothSettings, type BoothSettings } from '../../recording/booth-settings'
import { changeMe } from '../../recording/monitor'
import { markLastPass, toggleRecording } from '../../recording/recorder'
import { useRecorder } from '../../recording/recorder-store'

const NEXT_SURROUND: Record<BoothSettings['surround'], BoothSettings['surround']> = { beat: 'comp', comp: 'stack', stack: 'beat' }

export function useBoothKeys(): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return
      const act = KEYS[event.key]
      if (!act || (event.repeat && event.key !== '[' && event.key !== ']')) return
      if (event.key.startsWith('Arrow')) event.preventDefault()
      act()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
}

const KEYS: Record<string, () => void> = {
  r: toggleRecording,
  Escape: () => {
    const { phase } = useRecorder.getState()
    if (phase === 'rolling' || phase === 'waiting') toggleRecording()
  },
  h: () => setBooth({ surround: NEXT_SURROUND[useBoothSettings.getState().surround] }),
  '[': () => changeMe(-1),
  ']': () => changeMe(1),
  ArrowUp: () => markLastPass('star'),
  ArrowRight: () => markLastPass('spare'),
  ArrowDown: () => markLastPass('bin'),
}
