/** Hearing oneself: sends the worklet what the settings ask for, locked until headphones are confirmed for the output. */
import { framesPerBeat } from '../../core/beat/grid'
import { framesToSeconds } from '../../core/audio/frames'
import { MONITOR_OFF } from '../../core/monitor/monitor-chain'
import { useLive } from '../song/live'
import { useSongStore } from '../song/song-store'
import { setBooth, useBoothSettings } from './booth-settings'
import { useRecorder } from './recorder-store'

/** Above this the voice is heard as an echo of itself. */
export const LATE_MILLISECONDS = 15

/** A name for where sound goes, for which headphones are confirmed. */
function outputName(): string {
  return useBoothSettings.getState().outputId ?? 'default'
}

export function headphonesConfirmed(): boolean {
  return useBoothSettings.getState().headphones.includes(outputName())
}

export function confirmHeadphones(): void {
  const { headphones } = useBoothSettings.getState()
  setBooth({ headphones: [...new Set([...headphones, outputName()])], hearMe: 'app' })
  useRecorder.setState({ howled: false })
}

export function sendMonitor(): void {
  const { engine } = useLive.getState()
  if (!engine) return
  const { hearMe, decibels, room, echo, compress, tune } = useBoothSettings.getState()
  const { howled, input, inBooth, phase } = useRecorder.getState()
  const open = input.kind === 'microphone' || input.kind === 'singer'
  const beat = useSongStore.getState().history?.song.beat
  engine.setMonitor({
    ...MONITOR_OFF,
    on: open && (inBooth || phase === 'rolling') && hearMe === 'app' && headphonesConfirmed() && !howled,
    gainDecibels: decibels.me,
    roomDecibels: room,
    echoDecibels: echo,
    // An eighth and a half: a dotted eighth of the beat.
    echoSeconds: beat ? Math.min(1.9, 0.75 * framesToSeconds(framesPerBeat(beat.grid))) : 0.3,
    compress,
    tune: tune && beat?.key ? { key: beat.key, tuningCents: beat.tuningCents } : null,
  })
}

const ME_STEP_DECIBELS = 1.5

export function changeMe(steps: number): void {
  const { decibels } = useBoothSettings.getState()
  setBooth({ decibels: { ...decibels, me: Math.max(-60, Math.min(12, decibels.me + steps * ME_STEP_DECIBELS)) } })
}

useBoothSettings.subscribe(sendMonitor)
useRecorder.subscribe((state, before) => {
  if (
    state.howled !== before.howled ||
    state.input !== before.input ||
    state.inBooth !== before.inBooth ||
    (state.phase === 'idle') !== (before.phase === 'idle')
  )
    sendMonitor()
})
