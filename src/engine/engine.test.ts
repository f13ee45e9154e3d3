import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { planMix } from '../core/mix/plan'
import { smallSong } from '../core/song/song.test-kit'
import { USUAL_INTERFACE } from '../core/rehearsal/simulated-interface'
import type { AssetId } from '../core/song/schema'
import { Engine, type DeviceEvent } from './engine'
import type { ToFeeder } from './messages'
import { TRANSPORT } from './shared-state'
import { startFeederThread } from './threads'

jest.mock('./threads', () => ({ workletUrl: 'worklet.js', startFeederThread: jest.fn() }))

/** A part of the sound system: what was sent to it, and its port. */
class StandInNode {
  port = { postMessage: jest.fn(), onmessage: null as ((event: { data: unknown }) => void) | null }
  onprocessorerror: (() => void) | null = null
  connected = new Set<unknown>()
  constructor(
    _context: unknown,
    readonly name?: unknown,
  ) {
    nodes.push(this)
  }
  connect(to: unknown) {
    this.connected.add(to)
    return to
  }
  disconnect() {
    this.connected.clear()
  }
}

class StandInFeeder {
  postMessage = jest.fn()
  terminate = jest.fn()
  onmessage!: (event: { data: unknown }) => void
  onerror!: (event: { message: string }) => void
  constructor() {
    feeders.push(this)
  }
  get told(): ToFeeder['kind'][] {
    return this.postMessage.mock.calls.map(([message]) => (message as ToFeeder).kind)
  }
}

class StandInContext {
  state = 'suspended'
  currentTime = 10
  baseLatency = 0.01
  outputLatency = 0.02
  destination = {}
  onstatechange = () => {}
  audioWorklet = { addModule: () => moduleArrives }
  setSinkId = (id: string) => (id === 'gone' ? Promise.reject(new Error('no such output')) : Promise.resolve())
  constructor() {
    contexts.push(this)
  }
  resume() {
    if (letsSoundStart) this.become('running')
    return letsSoundStart ? Promise.resolve() : new Promise(() => {})
  }
  become(state: string) {
    this.state = state
    this.onstatechange()
  }
  close = jest.fn(() => Promise.resolve())
  createMediaStreamSource() {
    return new StandInNode(this)
  }
}

let nodes: StandInNode[] = []
let feeders: StandInFeeder[] = []
const feeder = (index = feeders.length - 1) => feeders[index]!
const contexts: StandInContext[] = []
const context = () => contexts.at(-1)!
let letsSoundStart = true
let moduleArrives: Promise<void> = Promise.resolve()
let events: DeviceEvent[] = []

const getUserMedia = jest.fn<(wish: unknown) => Promise<unknown>>()
const node = (name: string) => nodes.find(entry => entry.name === name)!
const PLAN = planMix(smallSong())
const PLAY = { fromFrame: 0, loop: null, silentBeforeFrame: null, stopAtFrame: null }

/** A microphone with a delay of its own of 10 ms. */
function microphone() {
  const track = {
    label: 'Desk microphone',
    readyState: 'live',
    onended: null as (() => void) | null,
    stop: jest.fn(),
    getSettings: () => ({ channelCount: 2, autoGainControl: true, latency: 0.01 }),
  }
  getUserMedia.mockResolvedValueOnce({ getAudioTracks: () => [track], getTracks: () => [track] })
  return track
}

async function started(): Promise<Engine> {
  const engine = await Engine.start()
  engine.listenToDevices(event => events.push(event))
  return engine
}

beforeEach(() => {
  ;[nodes, feeders, events, letsSoundStart, moduleArrives] = [[], [], [], true, Promise.resolve()]
  jest.mocked(startFeederThread).mockImplementation(() => new StandInFeeder() as unknown as Worker)
  Object.assign(globalThis, {
    crossOriginIsolated: true,
    AudioContext: StandInContext,
    AudioWorkletNode: StandInNode,
    GainNode: StandInNode,
    MessageChannel: class {
      port1 = {}
      port2 = {}
    },
  })
  Object.defineProperty(globalThis, 'navigator', { configurable: true, value: { mediaDevices: { getUserMedia, addEventListener: () => {} } } })
})
afterEach(() => void jest.useRealTimers())

describe('starting', () => {
  test('a page that is not isolated cannot have an engine, and none is begun', async () => {
    Object.assign(globalThis, { crossOriginIsolated: false })
    await expect(Engine.start()).rejects.toThrow('not-isolated')
    expect(nodes).toHaveLength(0)
  })

  test('a sound system that never answers is given up after a while, and closed', async () => {
    jest.useFakeTimers()
    moduleArrives = new Promise(() => {})
    const refused = expect(Engine.start()).rejects.toThrow('the sound system gave no answer')
    await jest.advanceTimersByTimeAsync(15_000)
    await refused
    expect(context().close).toHaveBeenCalled()
  })

  test('where the browser lets no sound start yet, nothing plays, now or later; after a gesture the same command works', async () => {
    jest.useFakeTimers()
    letsSoundStart = false
    const engine = await started()
    const played = engine.play(PLAY)
    await jest.advanceTimersByTimeAsync(1_000)
    expect(await played).toBe(false)
    expect(feeder(0).told).toEqual(['connect'])
    letsSoundStart = true
    expect(await engine.play(PLAY)).toBe(true)
    expect(feeder(0).told).toEqual(['connect', 'play'])
  })
})

describe('parts that die', () => {
  test('a dead feeder is replaced by one that knows the song and the click, and the page is told', async () => {
    const engine = await started()
    engine.setPlan(PLAN)
    engine.setClick({ grid: {} as never, gain: 1, countInGain: 1, accentGain: 2 })
    feeder(0).onerror({ message: 'out of memory' })
    expect(feeder(0).terminate).toHaveBeenCalled()
    expect(feeder(1).told).toEqual(['connect', 'plan', 'click'])
    expect(events).toEqual([{ kind: 'read-failed', detail: 'out of memory' }])
    await engine.play(PLAY)
    expect(feeder(1).told.at(-1)).toBe('play')
    expect(feeder(0).told).not.toContain('play')
  })

  test('one that dies again and again is told of as broken, and not started for ever', async () => {
    await started()
    for (let i = 0; i < 6; i++) feeder().onerror({ message: 'again' })
    expect(feeders).toHaveLength(6)
    expect(events.at(-1)).toEqual({ kind: 'broken', detail: 'again' })
  })

  test('a sound processor that stops is told of', async () => {
    await started()
    node('plush-mix').onprocessorerror!()
    expect(events).toEqual([{ kind: 'broken', detail: 'a sound processor stopped' }])
  })

  test('sound that is not stored is named; the engine goes on', async () => {
    await started()
    feeder(0).onmessage({ data: { kind: 'missing', assetId: 'a' as AssetId, startFrame: 0, endFrame: 480 } })
    feeder(0).onmessage({ data: { kind: 'failed', detail: 'the disk' } })
    expect(events).toEqual([
      { kind: 'missing-sound', assetId: 'a', startFrame: 0, endFrame: 480 },
      { kind: 'read-failed', detail: 'the disk' },
    ])
    expect(feeders).toHaveLength(1)
  })
})

describe('the microphone', () => {
  test('is asked for as it is, with nothing done to it, and what the browser does all the same is said', async () => {
    const engine = await started()
    microphone()
    expect(await engine.openMicrophone('desk')).toEqual({ kind: 'open', label: 'Desk microphone', channels: 2, processing: ['automatic gain'] })
    expect(getUserMedia).toHaveBeenLastCalledWith({
      audio: expect.objectContaining({ echoCancellation: false, noiseSuppression: false, autoGainControl: false, deviceId: { exact: 'desk' } }),
    })
  })

  test.each([
    ['NotAllowedError', 'not-allowed'],
    ['NotFoundError', 'not-found'],
    ['OverconstrainedError', 'not-found'],
    ['NotReadableError', 'in-use'],
    ['AbortError', 'unavailable'],
  ])('%s is told as %s', async (name, reason) => {
    const engine = await started()
    getUserMedia.mockRejectedValueOnce(Object.assign(new Error(), { name }))
    expect(await engine.openMicrophone(null)).toEqual({ kind: 'failed', reason })
    expect(engine.inputIsLive).toBe(false)
  })

  test('pulled out, it is told of, and what was measured with it no longer holds', async () => {
    const engine = await started()
    const track = microphone()
    await engine.openMicrophone(null)
    engine.knownRoundTripFrames = 700
    const { opening } = engine
    track.readyState = 'ended'
    track.onended!()
    expect(events).toEqual([{ kind: 'input-gone' }])
    expect(engine.opening).toBeGreaterThan(opening)
    expect(engine.knownRoundTripFrames).toBeNull()
    expect(engine.inputIsLive).toBe(false)
  })

  test('closed for another input, it is let go and is not told of as pulled out', async () => {
    const engine = await started()
    const track = microphone()
    await engine.openMicrophone(null)
    engine.openPracticeSinger()
    expect(track.stop).toHaveBeenCalled()
    expect(track.onended).toBeNull()
    expect(node('plush-interface').connected).toEqual(new Set([node('plush-capture'), node('plush-monitor')]))
    expect(engine.inputIsSimulated && engine.inputIsLive).toBe(true)
  })
})

describe('the round trip', () => {
  test('is what the browser reports of its delays until it is known better; with the practice singer what the simulated interface has', async () => {
    const engine = await started()
    microphone()
    await engine.openMicrophone(null)
    // 10 ms, 20 ms and the microphone's 10 ms.
    expect(engine.roundTripFrames).toBe(1_920)
    engine.knownRoundTripFrames = 700
    expect(engine.roundTripFrames).toBe(700)
    engine.openPracticeSinger()
    expect(engine.roundTripFrames).toBe(USUAL_INTERFACE.roundTripFrames)
  })

  test.each([
    ['the machine pauses the sound', (): void => context().become('suspended')],
    ['another output is chosen', (engine: Engine) => engine.chooseOutput('phones')],
    ['another input is opened', (engine: Engine) => engine.openPracticeSinger()],
    ['the simulated interface is set otherwise', (engine: Engine) => engine.setInterface({ ...USUAL_INTERFACE, roundTripFrames: 999 })],
  ])('is no longer known when %s', async (_, change) => {
    const engine = await started()
    engine.knownRoundTripFrames = 700
    await change(engine)
    expect(engine.knownRoundTripFrames).toBeNull()
  })

  test('an output that is not there any more is said so', async () => {
    const engine = await started()
    expect(await engine.chooseOutput('gone')).toBe(false)
    expect(await engine.chooseOutput(null)).toBe(true)
  })
})

test('what is heard now lies behind what sounds next by the output’s delay, and never before the start', async () => {
  const engine = await started()
  const { transport } = engine
  transport[TRANSPORT.songFrame] = 5_000
  expect(engine.audibleFrame).toBe(5_000)
  transport[TRANSPORT.playing] = 1
  transport[TRANSPORT.anchorSongFrame] = 96_000
  transport[TRANSPORT.anchorContextFrame] = 9 * 48_000
  expect(engine.audibleFrame).toBeCloseTo(96_000 + (1 - 0.02) * 48_000, 6)
  context().currentTime = 9.01
  expect(engine.audibleFrame).toBe(96_000)
})
