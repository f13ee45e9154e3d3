import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import { beginHistory } from '../../core/song/history'
import type { LayerId } from '../../core/song/schema'
import { layerOf, smallSong } from '../../core/song/song.test-kit'
import { placedLines } from '../../core/song/select'
import type { Engine } from '../../engine/engine'
import { LEVEL } from '../../engine/shared-state'
import type * as Live from '../song/live'
import type * as SongLock from '../song/song-lock'
import type * as SongStore from '../song/song-store'
import type * as ViewStore from '../song/view-store'
import type * as Readiness from './readiness'
import type * as RecorderStore from './recorder-store'

jest.mock('../../engine/engine', () => ({ Engine: class {} }))
jest.mock('../../engine/capture-session', () => ({ overhear: jest.fn() }))
jest.mock('../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('./booth-settings', () => ({
  useBoothSettings: Object.assign(() => {}, { getState: () => ({ countInBars: 1, preRollBars: 0 }), subscribe: () => {} }),
  setBooth: () => {},
}))
jest.mock('./monitor', () => ({ sendMonitor: () => {} }))
jest.mock('./take-facts', () => ({ useLeaks: { getState: () => ({ witnesses: new Map() }) } }))

const song = smallSong()
const MINUTE_BYTES = 48_000 * 4 * 60
let live: typeof Live
let lock: typeof SongLock
let store: typeof SongStore
let views: typeof ViewStore
let recorder: typeof RecorderStore
let readiness: typeof Readiness
let engine: {
  inputIsLive: boolean
  inputIsSimulated: boolean
  opening: number
  roundTripFrames: number
  context: { state: string }
  capture: { levels: Float32Array }
}
let minutes: number | undefined
let now: number

/** A song in its room, a microphone that hisses, nothing in the way. */
beforeEach(async () => {
  // What was seen of the input and the disk is remembered for a while: each test begins with nothing.
  jest.resetModules()
  ;[minutes, now] = [1_000, 50_000]
  jest.spyOn(performance, 'now').mockImplementation(() => now)
  Object.assign(globalThis, { crossOriginIsolated: true })
  Object.defineProperty(globalThis, 'navigator', {
    configurable: true,
    value: { storage: { estimate: () => Promise.resolve(minutes === undefined ? {} : { quota: minutes * MINUTE_BYTES, usage: 0 }) } },
  })
  ;[live, lock, store, views, recorder, readiness] = await Promise.all([
    import('../song/live'),
    import('../song/song-lock'),
    import('../song/song-store'),
    import('../song/view-store'),
    import('./recorder-store'),
    import('./readiness'),
  ])
  engine = {
    inputIsLive: true,
    inputIsSimulated: false,
    opening: 1,
    roundTripFrames: 960,
    context: { state: 'running' },
    capture: { levels: Float32Array.of(0.01, 0.005, 0, 1, 0) },
  }
  store.openHistory(beginHistory(song), false)
  views.useView.setState({ layerId: layerOf(song, 'Lead') })
  views.select(song, { kind: 'lines', lineIds: [placedLines(song)[0]!.line.id] })
  live.useLive.setState({ status: 'ready' })
  // Nothing is sent to it here.
  Object.assign(live.useLive.getState(), { engine: engine as unknown as Engine })
  lock.useSongLock.setState({ state: 'mine' })
  input('microphone')
})
afterEach(() => void jest.restoreAllMocks())

function input(kind: 'microphone' | 'singer', processing: string[] = []): void {
  recorder.useRecorder.setState({ input: { kind, deviceId: null, result: { kind: 'open', label: 'Desk microphone', channels: 1, processing } } })
}
const failedInput = (reason: 'not-allowed' | 'not-found' | 'in-use' | 'unavailable') => recorder.useRecorder.setState({ input: { kind: 'failed', reason } })

test('with all in order it will record; only the round trip, which nobody measured, is doubted', async () => {
  expect(await readiness.firstObstacle()).toBeNull()
  const states = (await readiness.lookAtAll()).map(({ about, state }) => [about, state.kind])
  expect(states.filter(([, kind]) => kind !== 'ok')).toEqual([['time', 'doubt']])
})

test.each<[string, string, () => void]>([
  ['another tab has the song', 'other-tab', () => lock.useSongLock.setState({ state: 'elsewhere' })],
  ['the song is only for reading', 'read-only', () => store.useSongStore.setState({ readOnly: true })],
  ['the page is not isolated', 'not-isolated', () => void Object.assign(globalThis, { crossOriginIsolated: false })],
  ['no layer is chosen', 'no-layer', () => views.useView.setState({ layerId: null })],
  ['the chosen layer is gone', 'no-layer', () => views.useView.setState({ layerId: 'gone' as LayerId })],
  ['the browser gives no sound', 'no-audio', () => void Object.assign(live.useLive.getState(), { status: 'no-audio' })],
  ['the sound was paused', 'audio-suspended', () => (engine.context.state = 'suspended')],
  [
    'the browser waits for a gesture',
    'audio-asleep',
    () => {
      engine.context.state = 'suspended'
      Object.assign(live.useLive.getState(), { status: 'asleep' })
    },
  ],
  ['no microphone is open', 'no-input', () => recorder.useRecorder.setState({ input: { kind: 'none' } })],
  ['one is being opened', 'no-input', () => recorder.useRecorder.setState({ input: { kind: 'opening' } })],
  ['it was not allowed', 'not-allowed', () => failedInput('not-allowed')],
  ['none was found', 'no-device', () => failedInput('not-found')],
  ['the browser has none at all', 'no-device', () => failedInput('unavailable')],
  ['another program has it', 'device-in-use', () => failedInput('in-use')],
  ['it was pulled out', 'input-gone', () => (engine.inputIsLive = false)],
  ['it is switched off', 'no-signal', () => (engine.capture.levels[LEVEL.peak] = 0)],
  ['the disk is nearly full', 'storage-low', () => (minutes = 1.9)],
])('%s: said as %s, with what to do', async (_, reason, spoil) => {
  spoil()
  expect(await readiness.firstObstacle()).toBe(reason)
  expect(readiness.OBSTACLE_TEXT[reason as Readiness.Obstacle].every(text => /\.$/.test(text))).toBe(true)
})

test('a stretch without length is nothing to record, a microphone needs no lines, the practice singer does', async () => {
  const bars = (fromBar: number, toBar: number) => recorder.useRecorder.setState({ scope: { kind: 'bars', fromBar, toBar } })
  bars(1, 2)
  expect(await readiness.firstObstacle()).toBeNull()
  input('singer')
  expect(await readiness.firstObstacle()).toBe('nothing-to-sing')
  bars(5, 6)
  expect(await readiness.firstObstacle()).toBeNull()
  views.useView.setState({ cursorFrame: 40 * 96_000 })
  recorder.useRecorder.setState({ scope: { kind: 'from-here' } })
  expect(await readiness.firstObstacle()).toBe('nothing-to-record')
})

test('a gate that closes between phrases is no dead microphone; five seconds of digital silence are', async () => {
  expect(await readiness.firstObstacle()).toBeNull()
  engine.capture.levels[LEVEL.peak] = 0
  now += 4_900
  expect(await readiness.firstObstacle()).toBeNull()
  now += 200
  expect(await readiness.firstObstacle()).toBe('no-signal')
  // Another microphone was never heard.
  engine.capture.levels[LEVEL.peak] = 0.01
  await readiness.firstObstacle()
  engine.capture.levels[LEVEL.peak] = 0
  input('microphone')
  expect(await readiness.firstObstacle()).toBe('no-signal')
})

test('an overload is held against the next take for two and a half seconds', async () => {
  engine.capture.levels[LEVEL.clippedSamples] = 12
  expect(await readiness.firstObstacle()).toBe('clipped')
  now += 2_400
  expect(await readiness.firstObstacle()).toBe('clipped')
  now += 200
  expect(await readiness.firstObstacle()).toBeNull()
})

test('room that gets short is doubted first, and a browser that does not say how much is believed', async () => {
  const room = async () => (await readiness.lookAtAll()).find(check => check.about === 'room')!.state
  minutes = 9
  expect(await room()).toEqual({ kind: 'doubt', reason: 'storage-short' })
  minutes = 1
  // The disk is not asked again and again.
  expect(await room()).toEqual({ kind: 'doubt', reason: 'storage-short' })
  now += 3_100
  expect(await room()).toMatchObject({ kind: 'failing' })
  minutes = undefined
  now += 3_100
  expect(await room()).toMatchObject({ kind: 'ok', detail: expect.stringContaining('does not say') })
})

test('what the browser does to the microphone is doubted, not refused', async () => {
  input('microphone', ['echo cancellation'])
  expect(await readiness.firstObstacle()).toBeNull()
  expect((await readiness.lookAtAll()).find(check => check.about === 'microphone')!.state).toEqual({ kind: 'doubt', reason: 'processed' })
})
