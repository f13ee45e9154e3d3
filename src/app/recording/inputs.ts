/** Devices of the Booth: opened once and kept open while the song is; what happens to them is noticed. */
import { ensureEngine, useLive, wake } from '../song/live'
import { warmUp } from '../../engine/writer-worker'
import type { Engine } from '../../engine/engine'
import { queryClient } from '../query-client'
import { boothSettingsRead, setBooth, useBoothSettings } from './booth-settings'
import { useRecorder } from './recorder-store'
import { devicesOpened } from './round-trip'

export async function openInput(kind: 'microphone' | 'singer', deviceId: string | null = null): Promise<void> {
  useRecorder.setState({ input: { kind: 'opening' }, stopped: null })
  const engine = await ensureEngine()
  void wake()
  if (!engine) return useRecorder.setState({ input: { kind: 'failed', reason: 'unavailable' } })
  watch(engine)
  const { outputId } = useBoothSettings.getState()
  if (outputId && outputId !== chosenOutput) await chooseOutput(outputId)
  const result = kind === 'singer' ? engine.openPracticeSinger() : await engine.openMicrophone(deviceId)
  useRecorder.setState({ input: result.kind === 'open' ? { kind, deviceId, result } : { kind: 'failed', reason: result.reason } })
  if (result.kind !== 'open') return
  setBooth({ input: kind === 'singer' ? { kind } : { kind, deviceId } })
  chooseChannel(useBoothSettings.getState().channels[result.label] ?? 0)
  engine.setInterface(useBoothSettings.getState().simulated)
  await devicesOpened(engine)
  warmUp()
  // Asked for once there is something to lose.
  void navigator.storage.persist?.()
}

/** The input of last time, if it can be had without asking: a permission that was given, or the practice singer. */
export async function openRememberedInput(): Promise<void> {
  await boothSettingsRead
  const { input } = useBoothSettings.getState()
  if (!input || useRecorder.getState().input.kind !== 'none') return
  if (input.kind === 'singer') return openInput('singer')
  const permission = await navigator.permissions?.query({ name: 'microphone' as PermissionName }).catch(() => null)
  if (permission?.state !== 'granted') return
  await openInput('microphone', input.deviceId)
  // The device of last time may not be plugged in; the default one is better than none.
  if (useRecorder.getState().input.kind === 'failed' && input.deviceId) await openInput('microphone')
}

export function chooseChannel(channel: number): void {
  const { input } = useRecorder.getState()
  useRecorder.setState({ channel })
  useLive.getState().engine?.setChannel(channel)
  if (input.kind === 'microphone') setBooth({ channels: { ...useBoothSettings.getState().channels, [input.result.label]: channel } })
}

/** What the engine plays to; the default is null. */
let chosenOutput: string | null = null

export async function chooseOutput(outputId: string | null): Promise<void> {
  const engine = await ensureEngine()
  if (!engine) return
  const there = await engine.chooseOutput(outputId)
  chosenOutput = there ? outputId : null
  setBooth({ outputId: there ? outputId : null })
  await devicesOpened(engine)
}

let watched: Engine | null = null

function watch(engine: Engine): void {
  if (watched === engine) return
  watched = engine
  engine.listenToDevices(event => {
    if (event.kind === 'devices-changed') void queryClient.invalidateQueries({ queryKey: ['devices'] })
    if (event.kind === 'broken') useRecorder.setState({ input: { kind: 'none' } })
    if (event.kind === 'howl') useRecorder.setState({ howled: true })
    if (event.kind === 'suspended' || event.kind === 'running' || event.kind === 'input-gone') void devicesOpened(engine)
  })
}
