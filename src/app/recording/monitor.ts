/** Hearing oneself: sends the worklet what the settings ask for, locked until headphones are confirmed for the output. */
import { framesPerBeat } from '../../core/beat/grid'
import { framesToSeconds } from '../../core/audio/frames'
import { MONITOR_OFF, type MonitorSettings } from '../../core/monitor/monitor-chain'
import type { Song } from '../../core/song/schema'
import { rungsAt } from '../../core/prints/rungs-of'
import type { LiveTuning } from '../../core/tune/live-tuner'
import { playheadFrame, useLive } from '../song/live'
import { useSongStore } from '../song/song-store'
import { useView } from '../song/view-store'
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
  const song = useSongStore.getState().history?.song
  const settings: MonitorSettings = {
    ...MONITOR_OFF,
    on: open && (inBooth || phase === 'rolling') && hearMe === 'app' && headphonesConfirmed() && !howled,
    gainDecibels: decibels.me,
    roomDecibels: room,
    echoDecibels: echo,
    // An eighth and a half: a dotted eighth of the beat.
    echoSeconds: song ? Math.min(1.9, 0.75 * framesToSeconds(framesPerBeat(song.beat.grid))) : 0.3,
    compress,
    tune: tune && song ? liveTuning(song) : null,
  }
  engine.setMonitor(settings)
  sent = JSON.stringify(settings.tune)
  followRungs(settings.on && tune)
}

/** Of a layer that is not tuned. */
const USUAL = { speedMilliseconds: 45, amount: 1, toleranceCents: 0 }

/** As the layer that is sung is tuned, at this moment of the song; null without a key. */
function liveTuning(song: Song): LiveTuning | null {
  const layer = song.layers.find(({ id }) => id === useView.getState().layerId)
  if (!song.beat.key || !layer) return null
  const { speedMilliseconds, amount, toleranceCents } = layer.tune ?? USUAL
  return { rungs: rungsAt(song, layer, playheadFrame()), speedMilliseconds, amount, toleranceCents }
}

/** Chords and another layer's notes go by: shorter than a note, and longer than what it costs to look. */
const FOLLOW_MILLISECONDS = 40

/** What the voice was last told to be drawn to. */
let sent = ''
let following: ReturnType<typeof setInterval> | undefined

/** Keeps what the voice is drawn to in step with the song as long as it is heard tuned, in whatever room a take goes on. */
function followRungs(isHeardTuned: boolean): void {
  if (isHeardTuned === (following !== undefined)) return
  clearInterval(following)
  following = isHeardTuned ? setInterval(lookForRungs, FOLLOW_MILLISECONDS) : undefined
}

function lookForRungs(): void {
  const song = useSongStore.getState().history?.song
  if (!song || JSON.stringify(liveTuning(song)) !== sent) sendMonitor()
}

const LEVEL_STEP_DECIBELS = 1.5

export function changeMe(steps: number): void {
  const { decibels } = useBoothSettings.getState()
  setBooth({ decibels: { ...decibels, me: Math.max(-60, Math.min(12, decibels.me + steps * LEVEL_STEP_DECIBELS)) } })
}

/** How loud the part is that is sung to. */
export function changeGuide(steps: number): void {
  const { decibels } = useBoothSettings.getState()
  setBooth({ decibels: { ...decibels, guide: Math.max(-60, Math.min(12, decibels.guide + steps * LEVEL_STEP_DECIBELS)) } })
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
