/** The engine in the page: started by the first gesture that needs it, fed with the song as it changes. */
import { SAMPLE_RATE_HZ } from '../../core/audio/frames'
import { create } from 'zustand'
import { decibelsToGain } from '../../core/audio/decibels'
import { isPrint } from '../../core/prints/jobs'
import { planMix } from '../../core/mix/plan'
import type { FrameRange } from '../../core/song/select'
import type { AssetId } from '../../core/song/schema'
import { Engine, type DeviceEvent } from '../../engine/engine'
import { dropPrint, usePrints } from './prints'
import { currentSong, useSongStore } from './song-store'
import { rangeOf, useView } from './view-store'

/** asleep: the browser lets no sound start before a click or a key. broken: a part of the engine died. */
type EngineStatus = 'off' | 'starting' | 'asleep' | 'ready' | 'broken' | 'not-isolated' | 'no-audio'

interface LiveState {
  engine: Engine | null
  status: EngineStatus
  playing: boolean
  /** Stored sounds that were asked for and are not there, or could not be read; said until it is read. */
  trouble: { missing: readonly AssetId[]; unread: boolean }
  /** True from the first count-in beat until the last sample is stored. */
  recording: boolean
}

export const useLive = create<LiveState>(() => ({ engine: null, status: 'off', playing: false, trouble: { missing: [], unread: false }, recording: false }))

let starting: Promise<Engine | null> | null = null

/** The engine, started if it was not; null if the browser cannot. It may be asleep: see `wake`. */
export function ensureEngine(): Promise<Engine | null> {
  starting ??= start()
  return starting
}

async function start(): Promise<Engine | null> {
  useLive.setState({ status: 'starting' })
  try {
    const engine = await Engine.start()
    engine.listen(message => {
      beginning = false
      useLive.setState({ playing: message.kind === 'started' })
    })
    engine.listenToDevices(event => notice(engine, event))
    useLive.setState({ engine })
    sendPlan()
    sendClick()
    void wake()
    return engine
  } catch (error) {
    starting = null
    useLive.setState({ status: (error as Error).message === 'not-isolated' ? 'not-isolated' : 'no-audio' })
    return null
  }
}

function notice(engine: Engine, event: DeviceEvent): void {
  if (engine !== useLive.getState().engine) return
  if (event.kind === 'running') useLive.setState({ status: 'ready' })
  else if (event.kind === 'broken') useLive.setState({ status: 'broken', playing: false })
  else if (event.kind === 'missing-sound' && isPrint(event.assetId)) dropPrint(event.assetId)
  else if (event.kind === 'missing-sound')
    useLive.setState(({ trouble }) => ({ trouble: { ...trouble, missing: [...new Set([...trouble.missing, event.assetId])] } }))
  else if (event.kind === 'read-failed') useLive.setState(({ trouble }) => ({ trouble: { ...trouble, unread: true } }))
}

/** To be called in a click or a key: lets sound start where the browser waited for that. @returns whether it runs. */
export async function wake(): Promise<boolean> {
  const { engine } = useLive.getState()
  const runs = (await engine?.wake()) ?? false
  if (engine && useLive.getState().engine === engine && useLive.getState().status !== 'broken') useLive.setState({ status: runs ? 'ready' : 'asleep' })
  return runs
}

/** A new engine in place of one that is broken. What was open must be opened again. */
export async function startAnew(): Promise<void> {
  const { engine } = useLive.getState()
  starting = null
  beginning = false
  useLive.setState({ engine: null, status: 'off', playing: false, trouble: { missing: [], unread: false } })
  await engine?.close()
  await ensureEngine()
}

// Browsers let sound start with the first click or key, whatever that click or key is meant for.
if (typeof addEventListener === 'function')
  for (const name of ['pointerdown', 'keydown'] as const) addEventListener(name, () => void (useLive.getState().status === 'asleep' && wake()), true)

function sendPlan(): void {
  const { engine } = useLive.getState()
  const { history, trial } = useSongStore.getState()
  const { view, inMono, isSmall } = useView.getState()
  if (engine && history) engine.setPlan(planMix(trial ?? history.song, view, usePrints.getState().table, { inMono, isSmall }))
}

function sendClick(): void {
  const { engine } = useLive.getState()
  const { history } = useSongStore.getState()
  const { clicking, clickDecibels, clickInCountIn, accentDecibels } = useView.getState()
  const gain = decibelsToGain(clickDecibels)
  if (engine && history)
    engine.setClick({
      grid: history.song.beat.grid,
      gain: clicking ? gain : 0,
      countInGain: clickInCountIn ? gain : 0,
      accentGain: decibelsToGain(accentDecibels),
    })
}

useSongStore.subscribe((state, before) => {
  if (state.history?.song.id !== before.history?.song.id) useLive.setState({ trouble: { missing: [], unread: false } })
  if (state.history?.song !== before.history?.song || state.trial !== before.trial) sendPlan()
  if (state.history?.song.beat.grid !== before.history?.song.beat.grid) sendClick()
  if (!state.history && before.history) useLive.getState().engine?.stop()
})
useView.subscribe((state, before) => {
  if (state.view !== before.view || state.inMono !== before.inMono || state.isSmall !== before.isSmall) sendPlan()
  if (
    state.clicking !== before.clicking ||
    state.clickDecibels !== before.clickDecibels ||
    state.clickInCountIn !== before.clickInCountIn ||
    state.accentDecibels !== before.accentDecibels
  )
    sendClick()
  const { playing, recording } = useLive.getState()
  const loopChanged =
    state.selection !== before.selection ||
    state.loopRange?.startFrame !== before.loopRange?.startFrame ||
    state.loopRange?.endFrame !== before.loopRange?.endFrame
  if (playing && !recording && (state.looping !== before.looping || (loopChanged && state.looping))) replaySoon()
})

usePrints.subscribe((state, before) => {
  if (state.table !== before.table) sendPlan()
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

/** Counts what was asked of the transport: a stop that comes while the engine is still being started ends what it was started for. */
let asked = 0
/** Asked to play, and neither playing nor stopped yet. */
let beginning = false

/** Plays from the cursor; with the loop on, the selection over and over. */
export async function play(fromFrame?: number): Promise<void> {
  const ask = ++asked
  beginning = true
  const engine = await ensureEngine()
  if (!engine) beginning = false
  // A stop may come while the browser is still waking: it must not be overtaken by what it stops.
  if (!engine || !(await wakes(engine)) || ask !== asked) return
  const song = currentSong()
  const { selection, looping, cursorFrame, loopRange } = useView.getState()
  const range = loopRange ?? rangeOf(song, selection)
  const start = fromFrame ?? cursorFrame
  await engine.play({
    fromFrame: looping && (start >= range.endFrame || start < range.startFrame - 10 * SAMPLE_RATE_HZ) ? range.startFrame : start,
    loop: looping ? range : null,
    silentBeforeFrame: null,
    stopAtFrame: looping ? null : Math.max(song.beat.frames, planMix(song).endFrame) + 2 * SAMPLE_RATE_HZ,
  })
}

async function wakes(engine: Engine): Promise<boolean> {
  if (await engine.wake()) return true
  beginning = false
  useLive.setState({ status: 'asleep' })
  return false
}

/** Plays a short stretch once, whatever loops; `again` plays it until something else is played. */
export async function playStretch(range: FrameRange, again = false): Promise<void> {
  const engine = await ensureEngine()
  await engine?.play({ fromFrame: range.startFrame, loop: again ? range : null, silentBeforeFrame: null, stopAtFrame: again ? null : range.endFrame })
}

export function stopPlaying(): void {
  asked++
  beginning = false
  useLive.getState().engine?.stop()
}

export function togglePlaying(): void {
  if (useLive.getState().playing || beginning) stopPlaying()
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
  return engine && playing ? engine.audibleFrame : useView.getState().cursorFrame
}
