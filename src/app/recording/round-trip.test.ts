import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { beginHistory } from '../../core/song/history'
import type { TakeId } from '../../core/song/schema'
import { smallSong, withTakes } from '../../core/song/song.test-kit'
import { overhear } from '../../engine/capture-session'
import type { Engine } from '../../engine/engine'
import { database } from '../../storage/database'
import { runJob } from '../../workers/run-job'
import { useLive } from '../song/live'
import { closeSong, currentSong, openHistory, undoStep } from '../song/song-store'
import { useRecorder } from './recorder-store'
import { devicesOpened, knownRoundTrip, measure, noteEstimated, placeTakesAgain, takesToPlaceAgain, typeRoundTrip, useRoundTrip } from './round-trip'
import { useLeaks } from './take-facts'

jest.mock('../../engine/engine', () => ({ Engine: class {} }))
jest.mock('../../engine/capture-session', () => ({ overhear: jest.fn() }))
jest.mock('../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('../song/keeper', () => ({ keep: () => {} }))
jest.mock('./monitor', () => ({ sendMonitor: jest.fn() }))

const quiet = { setPlan: () => {}, setClick: () => {}, setMonitor: () => {}, stop: () => {}, sendProbe: () => 0 }
let engine: Engine & { opening: number; inputIsSimulated: boolean; knownRoundTripFrames: number | null }
const job = jest.mocked(runJob) as unknown as jest.Mock<() => Promise<unknown>>
const measured = (value: unknown) => job.mockResolvedValue({ kind: 'done', value })
const microphone = (label: string) =>
  useRecorder.setState({ input: { kind: 'microphone', deviceId: null, result: { kind: 'open', label, channels: 1, processing: [] } } })

beforeEach(() => {
  engine = {
    ...quiet,
    opening: 1,
    inputIsSimulated: false,
    knownRoundTripFrames: null,
    roundTripFrames: 1_500,
    context: { sampleRate: 48_000, baseLatency: 0.01 },
  } as never
  useLive.setState({ engine })
  useRoundTrip.setState(useRoundTrip.getInitialState())
  useLeaks.setState({ witnesses: new Map() })
  useRecorder.setState(useRecorder.getInitialState())
  microphone('Desk microphone')
  jest.mocked(overhear).mockReset().mockResolvedValue(new Float32Array(1))
})
afterEach(async () => {
  closeSong()
  await database.settings.clear()
})

describe('what is known of the round trip', () => {
  test('is at first only what the browser reports, with the practice singer what the simulated interface has', () => {
    expect(knownRoundTrip(engine)).toEqual({ frames: 1_500, source: 'estimated', measuredAt: null })
    engine.inputIsSimulated = true
    expect(knownRoundTrip(engine)).toMatchObject({ source: 'simulated' })
  })

  test('measured, it holds until a device is opened again; then it is remembered of these devices, and of no others', async () => {
    measured({ ok: true, roundTripFrames: 962.4, spreadFrames: 0.2 })
    await measure()
    expect(knownRoundTrip(engine)).toMatchObject({ frames: 962, source: 'measured' })
    expect(engine.knownRoundTripFrames).toBe(962)
    engine.opening = 2
    await devicesOpened(engine)
    expect(knownRoundTrip(engine)).toMatchObject({ frames: 962, source: 'remembered', measuredAt: expect.any(String) })
    microphone('Other microphone')
    await devicesOpened(engine)
    expect(knownRoundTrip(engine)).toMatchObject({ frames: 1_500, source: 'estimated' })
    expect(engine.knownRoundTripFrames).toBeNull()
  })

  test('typed, it holds for this opening and is not remembered', async () => {
    await typeRoundTrip(25)
    expect(knownRoundTrip(engine)).toEqual({ frames: 1_200, source: 'typed', measuredAt: null })
    engine.opening = 2
    await devicesOpened(engine)
    expect(knownRoundTrip(engine).source).toBe('estimated')
  })

  test.each([
    ['nothing came in', 'silent', () => jest.mocked(overhear).mockRejectedValue(new Error('no answer'))],
    ['the sweeps were not heard', 'not-heard', () => measured({ ok: false, reason: 'not-heard', levelDbfs: -40 })],
    ['the worker died', 'stopped', () => job.mockResolvedValue({ kind: 'failed' })],
    [
      'a device was opened meanwhile',
      'stopped',
      () =>
        job.mockImplementation(() => {
          engine.opening = 7
          return Promise.resolve({ kind: 'done', value: { ok: true, roundTripFrames: 1, spreadFrames: 0 } })
        }),
    ],
  ])('a measurement in which %s gives no number, and the Booth is free again', async (_, failure, spoil) => {
    spoil()
    await measure()
    expect(useRoundTrip.getState()).toMatchObject({ failure, measuring: false, here: null })
    expect(useRecorder.getState().phase).toBe('idle')
  })

  test('nothing is measured while a take is recorded', async () => {
    useRecorder.setState({ phase: 'rolling' })
    await measure()
    expect(overhear).not.toHaveBeenCalled()
    expect(useRecorder.getState().phase).toBe('rolling')
  })
})

describe('takes made before it was measured', () => {
  const song = withTakes(smallSong(), 'Lead', 3, { roundTripFrames: 1_500, roundTripSource: 'estimated' })
  const ids = song.takes.map(take => take.id)
  beforeEach(() => {
    openHistory(beginHistory(song), false)
  })

  test('are offered another place, and moved by the difference as one step', async () => {
    noteEstimated(1, ids.slice(0, 1))
    noteEstimated(1, ids.slice(1, 2))
    expect(takesToPlaceAgain()).toEqual([])
    await typeRoundTrip(20)
    expect(takesToPlaceAgain()).toEqual(ids.slice(0, 2))
    placeTakesAgain()
    // Their round trip is 540 frames shorter: they were sung so much later.
    expect(currentSong().takes.map(take => take.originFrame - song.takes[0]!.originFrame)).toEqual([540, 540, 0])
    expect(takesToPlaceAgain()).toEqual([])
    undoStep()
    expect(currentSong().takes.map(take => take.originFrame - song.takes[0]!.originFrame)).toEqual([0, 0, 0])
  })

  test('of another opening stay where they are: it may have been another round trip', async () => {
    noteEstimated(1, ids)
    engine.opening = 2
    await typeRoundTrip(20)
    expect(takesToPlaceAgain()).toEqual([])
  })

  test('in which the beat is heard are left to the beat, and takes that are gone are not asked about', async () => {
    noteEstimated(1, [...ids, 'gone' as TakeId])
    useLeaks.setState({ witnesses: new Map([[ids[0]!, { roundTripFrames: 900, confidence: 1 }]]) })
    await typeRoundTrip(20)
    expect(takesToPlaceAgain()).toEqual(ids.slice(1))
  })
})
