/** The Booth's keys, and the one that works from anywhere: sing this line again. */
import { useEffect } from 'react'
import { isTyping } from '../../frame/use-song-keys'
import { setBooth, useBoothSettings, type BoothSettings } from '../../recording/booth-settings'
import { changeGuide, changeMe } from '../../recording/monitor'
import { backInQueue, leaveOut, nextInQueue } from '../../recording/queue'
import { markLastPass, toggleRecording } from '../../recording/recorder'
import { useRecorder } from '../../recording/recorder-store'

const NEXT_SURROUND: Record<BoothSettings['surround'], BoothSettings['surround']> = { beat: 'comp', comp: 'lead', lead: 'stack', stack: 'beat' }

export function useBoothKeys(): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return
      const act = KEYS[event.key]
      if (!act || (event.repeat && !HELD.has(event.key))) return
      if (event.key.startsWith('Arrow')) event.preventDefault()
      act()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
}

/** Levels go on while their key is held. */
const HELD: ReadonlySet<string> = new Set(['[', ']', ',', '.'])

const KEYS: Record<string, () => void> = {
  r: toggleRecording,
  Escape: () => {
    const { phase } = useRecorder.getState()
    if (phase === 'rolling' || phase === 'waiting') toggleRecording()
  },
  h: () => setBooth({ surround: NEXT_SURROUND[useBoothSettings.getState().surround] }),
  '[': () => changeMe(-1),
  ']': () => changeMe(1),
  ',': () => changeGuide(-1),
  '.': () => changeGuide(1),
  n: nextInQueue,
  b: backInQueue,
  x: leaveOut,
  ArrowUp: () => markLastPass('star'),
  ArrowRight: () => markLastPass('spare'),
  ArrowDown: () => markLastPass('bin'),
}
