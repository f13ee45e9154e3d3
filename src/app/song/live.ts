/** The engine in the page: started by the first gesture that needs it, fed with the song as it changes. */
import { create } from 'zustand'
import { decibelsToGain } from '../../core/audio/decibels'
import { planMix } from '../../core/mix/plan'
import type { FrameRange } from '../../core/song/select'
import { Engine } from '../../engine/engine'
import { currentSong, useSongStore } from './song-store'
import { rangeOf, useView } from './view-store'

type EngineStatus = 'off' | 'starting' | 'ready' | 'not-isolated' | 'no-audio'

interface LiveState {
  engine: Engine | null
  status: EngineStatus
  playing: boolean
  /** True from the first count-in beat until the last sample is stored. */
  recording: boolean
}

export const useLive = create<LiveState>(() => ({ engine: null, status: 'off', playing: false, recording: false }))

let starting: Promise<Engine | null> | null = null

/** The engine, started if it was not; null if the browser cannot. */
export function ensureEngine(): Promise<Engine | null> {
  starting ??= start()
  return starting
}

async function start(): Promise<Engine | null> {
  useLive.setState({ status: 'starting' })
  try {
    const engine = await Engine.start()
    engine.listen(message => useLive.setState({ playing: message.kind === 'started' }))
    useLive.setState({ engine, status: 'ready' })
    sendPlan()
    sendClick()
    return engine
  } catch (error) {
    starting = null
    useLive.setState({ status: (error as Error).message === 'not-isolated' ? 'not-isolated' : 'no-audio' })
    return null
  }
}

function sendPlan(): void {
  const { engine } = useLive.getState()
  const { history, trial } = useSongStore.getState()
  if (engine && history) engine.setPlan(planMix(trial ?? history.song, useView.getState().view))
}

function sendClick(): void {
  const { engine } = useLive.getState()
  const { history } = useSongStore.getState()
  const { clicking, clickDecibels, clickInCountIn, accentDecibels } = useView.getState()
  const gain = decibelsToGain(clickDecibels)
  if (engine && history) engine.setClick({ grid: history.song.beat.grid, gain: clicking ? gain : 0, countInGain: clickInCountIn ? gain : 0, accentGain: decibelsToGain(accentDecibels) })
}

useSongStore.subscribe((state, before) => {
  if (state.history?.song !== before.history?.song || state.trial !== before.trial) sendPlan()
  if (state.history?.song.beat.grid !== before.history?.song.beat.grid) sendClick()
  if (!state.history && before.history) useLive.getState().engine?.stop()
})
useView.subscribe((state, before) => {
  if (state.view !== before.view) sendPlan()
  if (state.clicking !== before.clicking || state.clickDecibels !== before.clickDecibels || state.clickInCountIn !== before.clickInCountIn || state.accentDecibels !== before.accentDecibels) sendClick()
  const { playing, recording } = useLive.getState()
  const loopChanged = state.selection !== before.selection || state.loopRange?.startFrame !== before.loopRange?.startFrame || state.loopRange?.endFrame !== before.loopRange?.endFrame
  if (playing && !recording && (state.looping !== before.looping || (loopChanged && state.looping))) replaySoon()
})

let replaying = false

/** What is looped changes in several steps at once: it is begun anew after the last of them. */
function replaySoon(): void {
  if (replaying) return
  replaying = true
  setTimeout(() => {
    replaying = false
    if (useLive.getState().playing) void play()
  })
}

/** Plays from the cursor; with the loop on, the selection over and over. */
export async function play(fromFrame?: number): Promise<void> {
  const engine = await ensureEngine()
  if (!engine) return
  const song = currentSong()
  const { selection, looping, cursorFrame, loopRange } = useView.getState()
  const range = loopRange ?? rangeOf(song, selection)
  const start = fromFrame ?? cursorFrame
  await engine.play({
    fromFrame: looping && (start >= range.endFrame || start < range.startFrame - 10 * 48_000) ? range.startFrame : start,
    loop: looping ? range : null,
    silentBeforeFrame: null,
    stopAtFrame: looping ? null : Math.max(song.beat.frames, planMix(song).endFrame) + 2 * 48_000,
  })
}

/** Plays a short stretch once, whatever loops; `again` plays it until something else is played. */
export async function playStretch(range: FrameRange, again = false): Promise<void> {
  const engine = await ensureEngine()
  await engine?.play({ fromFrame: range.startFrame, loop: again ? range : null, silentBeforeFrame: null, stopAtFrame: again ? null : range.endFrame })
}

export function stopPlaying(): void {
  useLive.getState().engine?.stop()
}

export function togglePlaying(): void {
  if (useLive.getState().playing) stopPlaying()
  else void play()
}

/** Moves the cursor, and what plays with it. */
export function seek(frame: number): void {
  useView.setState({ cursorFrame: frame })
  const { playing, recording } = useLive.getState()
  if (playing && !recording) void play(frame)
}

/** The song frame that is heard now, or where playing would begin. */
export function playheadFrame(): number {
  const { engine, playing } = useLive.getState()
  return engine && playing ? engine.heardFrame : useView.getState().cursorFrame
}
