import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { makePeaks } from '../../core/audio/peaks'
import { beginHistory } from '../../core/song/history'
import { removeLayer } from '../../core/layers/commands'
import type { AssetId, LayerId, SongId, Take } from '../../core/song/schema'
import { currentComp, placedLines, requireLayer } from '../../core/song/select'
import { layerOf, lineRange, smallSong } from '../../core/song/song.test-kit'
import { addTakes, makeTake } from '../../core/song/takes'
import { capture, type CaptureOptions, type CaptureOutcome } from '../../engine/capture-session'
import type { Engine } from '../../engine/engine'
import { database } from '../../storage/database'
import { addSong } from '../../storage/songs'
import { AssetWriter } from '../../storage/sounds'
import { runJob } from '../../workers/run-job'
import { keptSoFar } from '../song/keeper'
import { useLive } from '../song/live'
import { closeSong, currentSong, edit, openHistory, undoStep, useSongStore } from '../song/song-store'
import { readPeaksOf } from '../song/sounds'
import { resetView, select, useView } from '../song/view-store'
import { useBoothSettings } from './booth-settings'
import { keepCapture } from './keep-capture'
import { markLastPass, singAgain, toggleRecording } from './recorder'
import { useRecorder } from './recorder-store'

// What lies below is tried on its own: the capture, the workers, the devices.
jest.mock('../../engine/capture-session', () => ({ capture: jest.fn(), overhear: jest.fn() }))
jest.mock('../../engine/engine', () => ({ Engine: class {} }))
jest.mock('../../engine/writer-worker', () => ({ takeWriter: () => ({}), warmUp: () => {} }))
jest.mock('../../storage/open-tab', () => ({ whenOpen: () => Promise.resolve() }))
jest.mock('../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('../song/sounds', () => ({ readPeaksOf: jest.fn(), peaksLookup: () => Promise.resolve(() => null) }))
jest.mock('../song/voices', () => ({ analysedTake: () => null }))
jest.mock('./take-facts', () => ({ listenToTakes: jest.fn() }))
jest.mock('./inputs', () => ({ openRememberedInput: () => Promise.resolve() }))
jest.mock('./readiness', () => ({ firstObstacle: () => Promise.resolve(null) }))

const SECOND = 48_000
const song = { ...smallSong(), id: 'one' as SongId }
const lead = layerOf(song, 'Lead')
const quiet = { hushSinger: () => {}, stop: () => {}, setPlan: () => {}, setClick: () => {}, setMonitor: () => {}, setInterface: () => {} }
const engine = { ...quiet, opening: 1, inputIsSimulated: false, roundTripFrames: 960 }

/** The first captured frame is heard 1 s before the first line, and reaches the page 960 frames later. */
const ANCHORS = { captureContextFrame: 480_000, anchorContextFrame: 480_000, anchorSongFrame: lineRange(0).startFrame - SECOND + 960 }
const LINE_SECONDS = 4

/** How the next capture goes, once the transport rolls. */
function captures(outcome: (options: CaptureOptions) => CaptureOutcome | Promise<CaptureOutcome>, { seconds = LINE_SECONDS + 2, placed = true } = {}): void {
  jest.mocked(capture).mockImplementation(async (_, options) => {
    const writer = await AssetWriter.create(options.assetId, 1)
    await writer.push([new Float32Array(seconds * SECOND).fill(0.1)])
    await writer.finish()
    if (placed) options.onPlaced(ANCHORS)
    return outcome(options)
  })
}

const whole =
  (seconds = LINE_SECONDS + 2) =>
  ({ assetId }: CaptureOptions): CaptureOutcome => ({ kind: 'captured', captured: { ...ANCHORS, assetId, frames: seconds * SECOND, flaws: [] } })
const failed = (reason: Extract<CaptureOutcome, { kind: 'failed' }>['reason']) => (): CaptureOutcome => ({
  kind: 'failed',
  reason,
  detail: '',
  keptFrames: 0,
  anchors: ANCHORS,
})

async function sing(): Promise<Take[]> {
  toggleRecording()
  while (useRecorder.getState().phase === 'idle') await tick()
  while (useRecorder.getState().phase !== 'idle') await tick()
  await keptSoFar()
  return [...(useSongStore.getState().history?.song.takes ?? [])]
}

const tick = () => new Promise(resolve => setTimeout(resolve, 1))
const left = () => database.recordings.toArray()
const picks = (layerId: LayerId = lead) => currentComp(requireLayer(currentSong(), layerId)).picks
const labels = () => useSongStore.getState().history!.done.map(step => step.label)

beforeEach(async () => {
  await addSong(song, '2026-01-01T20:00:00.000Z')
  openHistory(beginHistory(song), false)
  resetView(song)
  useView.setState({ layerId: lead })
  select(song, { kind: 'lines', lineIds: [placedLines(song)[0]!.line.id] })
  useLive.setState({ engine: engine as unknown as Engine })
  useRecorder.setState({
    ...useRecorder.getInitialState(),
    input: { kind: 'microphone', deviceId: null, result: { kind: 'open', label: 'Desk microphone', channels: 1, processing: [] } },
  })
  useBoothSettings.setState({ preRollBars: 0 })
  jest.mocked(readPeaksOf).mockResolvedValue(makePeaks([new Float32Array(LINE_SECONDS * SECOND).fill(0.1)]))
  jest.mocked(runJob).mockResolvedValue({ kind: 'done', value: { frames: 3 * SECOND } } as never)
})
afterEach(async () => {
  jest.restoreAllMocks()
  closeSong()
  await keptSoFar()
  await Promise.all(database.tables.map(table => table.clear()))
})

test('asked for while its input is still being opened it waits for that, and is asked for once only', async () => {
  captures(whole())
  const { input } = useRecorder.getState()
  useRecorder.setState({ input: { kind: 'opening' } })
  toggleRecording()
  toggleRecording()
  await tick()
  expect(capture).not.toHaveBeenCalled()
  useRecorder.setState({ input })
  while (useRecorder.getState().phase === 'idle') await tick()
  while (useRecorder.getState().phase !== 'idle') await tick()
  expect(capture).toHaveBeenCalledTimes(1)
  expect(currentSong().takes).toHaveLength(1)
})

describe('a recording', () => {
  test('becomes a take that lies where it was sung, plays where nothing was picked, and is off the list of those left behind', async () => {
    captures(whole())
    const take = (await sing())[0]!
    expect(take).toMatchObject({
      layerId: lead,
      pass: 1,
      originFrame: lineRange(0).startFrame - SECOND,
      startFrame: lineRange(0).startFrame - SECOND,
      endFrame: lineRange(0).endFrame + SECOND,
      roundTripFrames: 960,
      roundTripSource: 'estimated',
      inputName: 'Desk microphone',
      binned: false,
    })
    expect(picks()).toMatchObject([{ takeId: take.id }])
    expect(await left()).toEqual([])
    expect(useRecorder.getState()).toMatchObject({ unfinished: [], stopped: null, lastTakeIds: [take.id] })
    expect(useLive.getState().recording).toBe(false)
  })

  test('is no step of undo: what undo takes back is where it plays', async () => {
    captures(whole())
    await sing()
    expect(labels()).toEqual(['play pass 1'])
    undoStep()
    expect([currentSong().takes.length, picks().length]).toEqual([1, 0])
  })

  test('does not change what is played already', async () => {
    captures(whole())
    const first = (await sing())[0]!
    const takes = await sing()
    expect(takes.map(take => take.pass)).toEqual([1, 2])
    expect(picks()).toMatchObject([{ takeId: first.id }])
  })

  test('that was given up before it rolled leaves nothing', async () => {
    captures(() => ({ kind: 'given-up' }), { placed: false })
    expect(await sing()).toEqual([])
    expect([await left(), await database.assets.toArray(), await database.packs.toArray()]).toEqual([[], [], []])
    expect(useRecorder.getState().unfinished).toEqual([])
  })

  test('stopped before its range is kept in the bin, and that is said', async () => {
    captures(whole(1), { seconds: 1 })
    const take = (await sing())[0]!
    expect(take).toMatchObject({ binned: true, endFrame: lineRange(0).startFrame })
    expect(useRecorder.getState().stopped).toBe('beside-range')
    expect(picks()).toEqual([])
  })

  test('whose layer was taken away meanwhile brings it back', async () => {
    captures(options => {
      edit('remove the layer', now => removeLayer(now, { layerId: lead }))
      return whole()(options)
    })
    const take = (await sing())[0]!
    expect(currentSong().layers.find(layer => layer.id === take.layerId)?.name).toBe('Lead')
  })

  test('of a song that was closed meanwhile is offered when it is opened again', async () => {
    captures(options => {
      closeSong()
      return whole()(options)
    })
    await sing()
    expect(await left()).toMatchObject([{ songId: song.id, layerId: lead, placement: { anchorSongFrame: ANCHORS.anchorSongFrame } }])
    expect(await database.assets.count()).toBe(1)
  })
})

test.each([
  [1, 500, 2],
  [2, 500, 1],
  [1, 0, 1],
])('asked for %d times, %d ms after it was stopped, while the take is still being kept: %d takes', async (times, late, takes) => {
  captures(whole())
  const peaks = makePeaks([new Float32Array(LINE_SECONDS * SECOND).fill(0.1)])
  jest.mocked(readPeaksOf).mockImplementation(() => new Promise(resolve => setTimeout(() => resolve(peaks), 700)))
  const stop = useRecorder.subscribe(({ phase }, before) => {
    if (phase !== 'finishing' || before.phase === 'finishing') return
    stop()
    setTimeout(() => {
      for (let i = 0; i < times; i++) toggleRecording()
    }, late)
  })
  await sing()
  await new Promise(resolve => setTimeout(resolve, 100))
  while (useRecorder.getState().phase !== 'idle') await tick()
  await keptSoFar()
  expect(currentSong().takes).toHaveLength(takes)
})

test('after a take that something ended, what was asked for meanwhile is not begun', async () => {
  captures(failed('input-gone'))
  jest.mocked(capture).mockClear()
  const recovered = { kind: 'done', value: { frames: 3 * SECOND } }
  jest.mocked(runJob).mockImplementation((() => new Promise(resolve => setTimeout(() => resolve(recovered), 700))) as never)
  const stop = useRecorder.subscribe(({ phase }) => {
    if (phase !== 'finishing') return
    stop()
    setTimeout(toggleRecording, 500)
  })
  await sing()
  await new Promise(resolve => setTimeout(resolve, 100))
  expect(useRecorder.getState()).toMatchObject({ phase: 'idle', stopped: 'input-gone-in-take' })
  expect(jest.mocked(capture)).toHaveBeenCalledTimes(1)
})

test('sung again by one key, the line is recorded at once, with a bar of the song before it', async () => {
  captures(whole())
  const goToBooth = jest.fn()
  useRecorder.setState({ scope: { kind: 'from-here' } })
  singAgain('line', goToBooth)
  while (useRecorder.getState().phase !== 'idle' || useRecorder.getState().lastTakeIds.length === 0) await tick()
  expect(goToBooth).toHaveBeenCalledTimes(1)
  const { play } = jest.mocked(capture).mock.lastCall![1]
  // A bar counted in, a bar of the song, the line.
  expect(play.fromFrame).toBe(lineRange(0).startFrame - 2 * 96_000)
  expect(play.silentBeforeFrame).toBe(lineRange(0).startFrame - 96_000)
})

describe('a loop', () => {
  /** Four turns of the line, the last one broken off after a second. */
  const seconds = 1 + 3 * LINE_SECONDS + 1
  beforeEach(() => useView.setState({ looping: true }))

  test('gives a take each turn, with what was said of it while the next went on', async () => {
    captures(
      options => {
        useRecorder.setState({ marks: { 1: ['bin'], 2: ['star', 'spare'], 3: [] } })
        return whole(seconds)(options)
      },
      { seconds },
    )
    const takes = await sing()
    expect(takes.map(({ pass, binned, starred, spare }) => ({ pass, binned, starred, spare }))).toEqual([
      { pass: 1, binned: true, starred: false, spare: false },
      { pass: 2, binned: false, starred: true, spare: true },
      { pass: 3, binned: false, starred: false, spare: false },
      { pass: 4, binned: false, starred: false, spare: false },
    ])
    expect(new Set(takes.map(take => take.assetId)).size).toBe(1)
    // Each was sung one line after the one before.
    const times = takes.map(take => Date.parse(take.recordedAt))
    expect(times.slice(1).map((time, i) => time - times[i]!)).toEqual([1, 2, 3].map(() => 1_000 * LINE_SECONDS))
    // Turn by turn the same sound lies one line earlier.
    expect(takes.map(take => takes[0]!.originFrame - take.originFrame)).toEqual([0, 1, 2, 3].map(turn => turn * LINE_SECONDS * SECOND))
    expect(picks()).toMatchObject([{ takeId: takes[1]!.id }])
  })

  test('afterwards the last take is spoken of; said twice, it is taken back', async () => {
    captures(whole(seconds), { seconds })
    const last = (await sing()).at(-1)!
    const now = () => currentSong().takes.find(take => take.id === last.id)!
    markLastPass('star')
    markLastPass('spare')
    expect(now()).toMatchObject({ starred: true, spare: true })
    markLastPass('star')
    markLastPass('bin')
    expect(now()).toMatchObject({ starred: false, binned: true })
    // What lies in the bin is not spoken of again.
    markLastPass('star')
    expect(now().starred).toBe(false)
  })
})

describe('a recording that ends by itself', () => {
  test('what is stored of it is a take, and why it ended is said', async () => {
    captures(failed('input-gone'), { seconds: 3 })
    const take = (await sing())[0]!
    expect(take).toMatchObject({ endFrame: lineRange(0).startFrame + 2 * SECOND })
    expect(useRecorder.getState().stopped).toBe('input-gone-in-take')
  })

  test('on a full disk it is tried again until there is room, and meanwhile it is no leftover to be thrown away', async () => {
    const sleep = globalThis.setTimeout
    let again = () => {}
    jest
      .spyOn(globalThis, 'setTimeout')
      .mockImplementation(((then: () => void, after = 0) => (after > 3_000 ? void (again = then) : sleep(then, after))) as never)
    jest.mocked(runJob).mockResolvedValueOnce({ kind: 'failed', reason: 'unexpected', detail: 'QuotaExceededError' } as never)
    captures(failed('storage-full'), { seconds: 3 })
    expect(await sing()).toEqual([])
    expect(useRecorder.getState()).toMatchObject({ stopped: 'storage-full', unfinished: [(await left())[0]!.id] })
    again()
    while (useRecorder.getState().unfinished.length > 0) await tick()
    expect(currentSong().takes).toHaveLength(1)
    expect(await left()).toEqual([])
  })
})

describe('keeping', () => {
  const placement = { ...ANCHORS, range: lineRange(0), looping: false, roundTripFrames: 960 }
  const kept = {
    assetId: 'sung' as AssetId,
    layerId: lead,
    frames: 6 * SECOND,
    placement,
    roundTrip: { frames: 960, source: 'measured' as const, measuredAt: null },
    startedAt: '2026-01-01T20:00:00.000Z',
    inputName: 'Desk microphone',
    flaws: [],
    marks: {},
  }
  const row = { id: kept.assetId, songId: song.id, layerId: lead, startedAt: kept.startedAt, roundTripSource: 'measured' as const, placement }

  test('a recording that is a take already makes no second one, and its sound stays', async () => {
    const take = makeTake({
      ...lineRange(0),
      id: 'kept' as Take['id'],
      layerId: lead,
      pass: 1,
      assetId: kept.assetId,
      originFrame: 0,
      recordedAt: kept.startedAt,
      inputName: '',
    })
    openHistory(beginHistory(addTakes(song, { takes: [take] })), false)
    await keepCapture(kept)
    expect(currentSong().takes).toHaveLength(1)
  })

  test('while the take cannot be written the recording stays on the list of those left behind', async () => {
    await database.recordings.add(row)
    const write = jest.spyOn(database.history, 'bulkPut').mockRejectedValueOnce(new Error('disk asleep'))
    const songs = jest.spyOn(database.songs, 'put').mockRejectedValueOnce(new Error('disk asleep'))
    await keepCapture(kept)
    expect(write.mock.calls.length + songs.mock.calls.length).toBeGreaterThan(0)
    expect(useSongStore.getState().keeping.kind).toBe('failed')
    expect(await left()).toHaveLength(1)
  })

  test('thrown away, it is a take in the bin that can come back', async () => {
    await database.recordings.add(row)
    await keepCapture({ ...kept, toBin: true })
    expect(currentSong().takes).toMatchObject([{ binned: true, assetId: kept.assetId }])
    expect(picks()).toEqual([])
    expect(await left()).toEqual([])
  })

  test('who sent the singer for one pass is told of it, once', async () => {
    const onTaken = jest.fn()
    useRecorder.setState({ onTaken })
    await keepCapture(kept)
    await keepCapture({ ...kept, assetId: 'other' as AssetId })
    expect(onTaken.mock.calls).toEqual([[[currentSong().takes[0]!.id]]])
  })
})
