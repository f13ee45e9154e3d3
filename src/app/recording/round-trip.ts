/** What is known of the round trip: measured at this opening of the devices, typed, remembered from another, or only reported by the browser. */
import { z } from 'zod'
import { create } from 'zustand'
import { makeProbe, MAX_ROUND_TRIP_FRAMES, type RoundTripMeasurement } from '../../core/latency/round-trip'
import { MONITOR_OFF } from '../../core/monitor/monitor-chain'
import type { RoundTripSource, TakeId } from '../../core/song/schema'
import { placeAgain } from '../../core/song/takes'
import { overhear } from '../../engine/capture-session'
import type { Engine } from '../../engine/engine'
import { keepSetting, readSetting } from '../../storage/settings'
import { runJob } from '../../workers/run-job'
import { useLive } from '../song/live'
import { currentSong, edit } from '../song/song-store'
import { listenIn } from './listen-in'
import { sendMonitor } from './monitor'
import { useRecorder } from './recorder-store'
import { useLeaks } from './take-facts'
import { useBoothSettings } from './booth-settings'

const RememberedSchema = z.object({ frames: z.number().int().min(0).max(96_000), measuredAt: z.iso.datetime() })

interface RoundTripState {
  measuring: boolean
  /** Holds while `opening` is the engine's. */
  here: { opening: number; frames: number; source: 'measured' | 'typed'; spreadFrames: number; at: string } | null
  remembered: z.infer<typeof RememberedSchema> | null
  /** Why the last measurement gave no number. */
  failure: Exclude<Extract<RoundTripMeasurement, { ok: false }>['reason'], never> | 'stopped' | null
  /** Takes made since the devices were opened whose place is only estimated. */
  estimatedTakes: { opening: number; takeIds: TakeId[] }
  /** Raised when the devices were opened anew, so that what is shown is looked at again. */
  opening: number
}

export const useRoundTrip = create<RoundTripState>(() => ({
  measuring: false,
  here: null,
  remembered: null,
  failure: null,
  estimatedTakes: { opening: 0, takeIds: [] },
  opening: 0,
}))

export interface KnownRoundTrip {
  frames: number
  source: RoundTripSource
  measuredAt: string | null
}

export function knownRoundTrip(engine: Engine): KnownRoundTrip {
  const { here, remembered } = useRoundTrip.getState()
  if (here && here.opening === engine.opening) return { frames: here.frames, source: here.source, measuredAt: here.source === 'measured' ? here.at : null }
  if (engine.inputIsSimulated) return { frames: engine.roundTripFrames, source: 'simulated', measuredAt: null }
  if (remembered) return { frames: remembered.frames, source: 'remembered', measuredAt: remembered.measuredAt }
  return { frames: engine.roundTripFrames, source: 'estimated', measuredAt: null }
}

/** Devices were opened or the audio stood still: what was measured counts no more, and what was remembered of these devices is looked up. */
export async function devicesOpened(engine: Engine): Promise<void> {
  const remembered = await readSetting(settingKey(engine), RememberedSchema).catch(() => null)
  useRoundTrip.setState({ opening: engine.opening, remembered, failure: null })
  const { here } = useRoundTrip.getState()
  engine.knownRoundTripFrames = here?.opening === engine.opening ? here.frames : engine.inputIsSimulated ? null : (remembered?.frames ?? null)
}

function settingKey(engine: Engine): string {
  const { input } = useRecorder.getState()
  const name = input.kind === 'microphone' || input.kind === 'singer' ? input.result.label : ''
  const output = useBoothSettings.getState().outputId ?? 'default'
  const { sampleRate, baseLatency } = engine.context
  return `round-trip:${name}|${output}|${sampleRate}|${Math.round(baseLatency * sampleRate)}`
}

/** Sends the sweeps and looks for them; under three seconds. */
export async function measure(): Promise<void> {
  const { engine } = useLive.getState()
  if (!engine) return
  await listenIn(async () => {
    useRoundTrip.setState({ measuring: true, failure: null })
    const { opening } = engine
    try {
      const probe = makeProbe()
      const frames = probe.length + MAX_ROUND_TRIP_FRAMES
      engine.stop()
      // A cup held to the microphone would howl.
      engine.setMonitor(MONITOR_OFF)
      const captured = await overhear(engine, engine.sendProbe(probe), frames).catch(() => null)
      if (!captured) return useRoundTrip.setState({ failure: 'silent' })
      const result = await runJob('measureRoundTrip', { captured })
      if (result.kind !== 'done' || opening !== engine.opening) return useRoundTrip.setState({ failure: 'stopped' })
      const measured = result.value
      if (!measured.ok) return useRoundTrip.setState({ failure: measured.reason })
      await know(engine, { frames: Math.round(measured.roundTripFrames), source: 'measured', spreadFrames: measured.spreadFrames })
    } finally {
      sendMonitor()
      useRoundTrip.setState({ measuring: false })
    }
  })
}

export async function typeRoundTrip(milliseconds: number): Promise<void> {
  const { engine } = useLive.getState()
  if (engine) await know(engine, { frames: Math.round(milliseconds * 48), source: 'typed', spreadFrames: 0 })
}

async function know(engine: Engine, known: { frames: number; source: 'measured' | 'typed'; spreadFrames: number }): Promise<void> {
  const at = new Date().toISOString()
  useRoundTrip.setState({ here: { opening: engine.opening, at, ...known }, failure: null })
  engine.knownRoundTripFrames = known.frames
  if (known.source === 'measured') await keepSetting(settingKey(engine), { frames: known.frames, measuredAt: at }).catch(() => {})
}

export function noteEstimated(opening: number, takeIds: TakeId[]): void {
  const { estimatedTakes } = useRoundTrip.getState()
  useRoundTrip.setState({
    estimatedTakes: estimatedTakes.opening === opening ? { opening, takeIds: [...estimatedTakes.takeIds, ...takeIds] } : { opening, takeIds },
  })
}

/**
 * Takes of this opening that a measurement made since would place better. Not those in which the beat is heard: it tells of the very
 * moment they were sung, and the path may have moved since.
 */
export function takesToPlaceAgain(): TakeId[] {
  const { estimatedTakes, here } = useRoundTrip.getState()
  if (!here || here.opening !== estimatedTakes.opening) return []
  return estimatedTakes.takeIds.filter(id => {
    const take = currentSong().takes.find(entry => entry.id === id)
    return (
      take &&
      take.roundTripFrames !== here.frames &&
      take.roundTripSource !== 'measured' &&
      take.roundTripSource !== 'leak' &&
      !useLeaks.getState().witnesses.has(id)
    )
  })
}

export function placeTakesAgain(): void {
  const takeIds = takesToPlaceAgain()
  const { here } = useRoundTrip.getState()
  if (!here) return
  edit('place takes by the measured round trip', song => placeAgain(song, { takeIds, roundTripFrames: here.frames, source: here.source, measuredAt: here.at }))
}
