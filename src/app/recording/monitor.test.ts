import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { setTune } from '../../core/edits/policies'
import { MonitorChain, type MonitorSettings } from '../../core/monitor/monitor-chain'
import { setChord, setKey } from '../../core/song/beat-facts'
import { beginHistory } from '../../core/song/history'
import { frameOfBeat } from '../../core/beat/grid'
import { layerOf, smallSong } from '../../core/song/song.test-kit'
import { layerTune, TUNE_STEPS } from '../../core/tune/tune-settings'
import { trackPitch } from '../../core/voice/pitch'
import { buzz } from '../../core/voice/voice.test-kit'
import type { Engine } from '../../engine/engine'
import { useLive } from '../song/live'
import { closeSong, edit, openHistory } from '../song/song-store'
import { useView } from '../song/view-store'
import { setBooth } from './booth-settings'
import { confirmHeadphones } from './monitor'
import { useRecorder } from './recorder-store'

jest.mock('../../engine/engine', () => ({ Engine: class {} }))
jest.mock('../../storage/settings', () => ({ keepSetting: () => Promise.resolve(), readSetting: () => Promise.resolve(null) }))
jest.mock('../song/keeper', () => ({ keep: () => {}, keepStep: () => {} }))

const song = setKey(smallSong(), { key: { tonic: 'C', mode: 'major' }, colour: null })
const double = layerOf(song, 'Double left')
const C_MAJOR = [0, 200, 400, 500, 700, 900, 1_100]
let heard: MonitorSettings[]
const last = () => heard.at(-1)!
const afterALook = () => jest.advanceTimersByTime(50)

beforeEach(() => {
  jest.useFakeTimers()
  heard = []
  useLive.setState({
    engine: {
      setMonitor: (settings: MonitorSettings) => heard.push(settings),
      setPlan: () => {},
      setClick: () => {},
      stop: () => {},
      audibleFrame: 0,
    } as unknown as Engine,
  })
  openHistory(beginHistory(song), false)
  useView.setState({ layerId: double, cursorFrame: 0 })
  useRecorder.setState({
    ...useRecorder.getInitialState(),
    inBooth: true,
    input: { kind: 'microphone', deviceId: null, result: { kind: 'open', label: 'Desk', channels: 1, processing: [] } },
  })
  confirmHeadphones()
  setBooth({ tune: true })
})
afterEach(() => {
  setBooth({ tune: false, hearMe: 'off' })
  closeSong()
  jest.useRealTimers()
})

describe('hearing oneself in tune', () => {
  test('goes by the key and the usual numbers until the layer is tuned, then by the layer’s', () => {
    expect(last()).toMatchObject({ on: true, tune: { rungs: C_MAJOR, amount: 1, toleranceCents: 0 } })
    const tune = { ...layerTune(TUNE_STEPS.hard), amount: 0.8, toleranceCents: 12 }
    edit('Test', now => setTune(now, { layerIds: [double], tune }))
    afterALook()
    expect(last().tune).toEqual({ rungs: C_MAJOR, speedMilliseconds: tune.speedMilliseconds, amount: 0.8, toleranceCents: 12 })
  })

  test('goes on while the take does, in whatever room, and follows the chord of the moment there', () => {
    edit('Test', now => setChord(now, { startBeat: 16, beatCount: 4, chord: { root: 9, quality: 'minor' } }))
    edit('Test', now => setTune(now, { layerIds: [double], tune: { ...layerTune(TUNE_STEPS.firmly), to: { kind: 'chord' } } }))
    useRecorder.setState({ phase: 'rolling' })
    useRecorder.setState({ inBooth: false })
    afterALook()
    expect(last()).toMatchObject({ on: true, tune: { rungs: C_MAJOR } })
    useView.setState({ cursorFrame: frameOfBeat(song.beat.grid, 17) })
    afterALook()
    expect(last().tune!.rungs.toSorted((a, b) => a - b)).toEqual([0, 400, 900])
    // The take has ended, and nobody is in the Booth.
    useRecorder.setState({ phase: 'idle' })
    expect(last().on).toBe(false)
    const told = heard.length
    afterALook()
    expect(heard).toHaveLength(told)
  })

  test('is off without a key, and the voice is sent nowhere without headphones', () => {
    edit('Test', now => setKey(now, { key: null, colour: null }))
    afterALook()
    expect(last()).toMatchObject({ on: true, tune: null })
    setBooth({ headphones: [] })
    expect(last().on).toBe(false)
  })

  test('what is sent brings a voice to its rung in the headphones', () => {
    const chain = new MonitorChain()
    chain.set({ ...last(), roomDecibels: -60, echoDecibels: -60, compress: false })
    const voice = buzz(() => 261.63 * 2 ** (40 / 1_200)).sound.map(sample => 0.1 * sample)
    const [left, right] = [new Float32Array(128), new Float32Array(128)]
    const out = new Float32Array(voice.length)
    for (let at = 0; at + 128 <= voice.length; at += 128) {
      chain.process(voice.subarray(at, at + 128), left, right)
      out.set(left, at)
    }
    const cents = Array.from(trackPitch(out).f0Hz.subarray(150, 300), hz => 1_200 * Math.log2(hz / 261.63)).sort((a, b) => a - b)
    expect(Math.abs(cents[cents.length >> 1]!)).toBeLessThan(4)
  })
})
