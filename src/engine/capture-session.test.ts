import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import type { AssetId } from '../core/song/schema'
import { capture, type CaptureEngine, type CaptureOptions, type Writer } from './capture-session'
import type { FromWriter, ToWriter } from './capture-writer'
import type { DeviceEvent } from './engine'
import { ARMED, CAPTURE, makeCaptureState } from './shared-state'

/** A writer that answers as it is told to. */
class StandInWriter implements Writer {
  onmessage: Writer['onmessage'] = null
  onerror: Writer['onerror'] = null
  onmessageerror: Writer['onmessageerror'] = null
  ended = false

  constructor(private readonly answer: (message: ToWriter, writer: StandInWriter) => void = willing) {}

  postMessage(message: ToWriter): void {
    this.answer(message, this)
  }

  tell(data: FromWriter): void {
    this.onmessage?.call(this as never, { data } as MessageEvent)
  }

  die(message: string): void {
    this.onerror?.call(this as never, { message } as ErrorEvent)
  }

  terminate(): void {
    this.ended = true
  }
}

const willing = (message: ToWriter, writer: StandInWriter) =>
  writer.tell(message.kind === 'begin' ? { kind: 'begun' } : { kind: 'finished', facts: { frames: 96_000, clippedRuns: 0 } })

/** An engine whose transport starts at once and stops when told to, with a live microphone. */
function standInEngine({
  awake = true,
  startsAfter = 10,
  stopsAfter = 5,
  delivers = true,
  clockMilliseconds = () => performance.now(),
}: { awake?: boolean; startsAfter?: number | null; stopsAfter?: number; delivers?: boolean; clockMilliseconds?: () => number } = {}) {
  const state = makeCaptureState()
  const device = new Set<(event: DeviceEvent) => void>()
  const waiting: { kind: string; resolve: (message: never) => void }[] = []
  const heard: string[] = []
  const tellTransport = (message: { kind: 'started'; contextFrame: number; songFrame: number } | { kind: 'stopped'; songFrame: number }) => {
    for (const entry of waiting.filter(({ kind }) => kind === message.kind)) entry.resolve(message as never)
  }
  const tick = setInterval(() => {
    if (delivers && Atomics.load(state.control, CAPTURE.armed) === ARMED.yes) Atomics.add(state.control, CAPTURE.writtenFrames, 128)
  }, 3)
  const engine: CaptureEngine = {
    capture: state,
    get clockSeconds() {
      return clockMilliseconds() / 1_000
    },
    roundTripFrames: 960,
    wake: () => Promise.resolve(awake),
    play: () => {
      heard.push('play')
      if (startsAfter !== null) setTimeout(() => tellTransport({ kind: 'started', contextFrame: 1_000, songFrame: 0 }), startsAfter)
      return Promise.resolve(true)
    },
    stop: () => {
      heard.push('stop')
      setTimeout(() => tellTransport({ kind: 'stopped', songFrame: 48_000 }), stopsAfter)
    },
    next: kind => new Promise(resolve => waiting.push({ kind, resolve: resolve as (message: never) => void })),
    listenToCapture: () => () => {},
    listenToDevices: listener => {
      device.add(listener)
      return () => device.delete(listener)
    },
  }
  return {
    engine,
    heard,
    tellDevices: (event: DeviceEvent) => device.forEach(listener => listener(event)),
    end: () => clearInterval(tick),
    isArmed: () => Atomics.load(state.control, CAPTURE.armed) !== ARMED.no,
  }
}

function options(changes: Partial<CaptureOptions> = {}): CaptureOptions & { placed: unknown[]; abort: AbortController } {
  const placed: unknown[] = []
  const abort = new AbortController()
  return {
    assetId: 'sung' as AssetId,
    play: { fromFrame: 0, loop: null, silentBeforeFrame: null, stopAtFrame: null },
    startAbove: null,
    onWaiting: () => {},
    onPlaced: anchors => void placed.push(anchors),
    onKept: () => {},
    onBacklog: () => {},
    signal: abort.signal,
    placed,
    abort,
    ...changes,
  }
}

beforeEach(() => void jest.useFakeTimers())
afterEach(() => void jest.useRealTimers())

/** Settles while the clock runs on by itself. */
async function settle<T>(promise: Promise<T>): Promise<T> {
  let done = false
  void promise.finally(() => (done = true))
  while (!done) await jest.advanceTimersByTimeAsync(20)
  return promise
}

test('a take is armed, rolled, stopped and stored, with the clock’s anchors; nothing stays armed and the writer is ended', async () => {
  const { engine, end, isArmed } = standInEngine()
  const wish = options()
  const writer = new StandInWriter()
  const running = capture(engine, wish, writer)
  await jest.advanceTimersByTimeAsync(500)
  expect(wish.placed).toEqual([{ captureContextFrame: 0, anchorContextFrame: 1_000, anchorSongFrame: 0 }])
  engine.stop()
  expect(await settle(running)).toMatchObject({ kind: 'captured', captured: { assetId: 'sung', frames: 96_000, anchorContextFrame: 1_000 } })
  expect(isArmed()).toBe(false)
  expect(writer.ended).toBe(true)
  end()
})

test('the machine pauses the sound, and for long: the take ends there, says so inside itself, and the pause is no leap of its clock', async () => {
  let pausedAt: number | null = null
  const { engine, end, tellDevices } = standInEngine({ stopsAfter: 7_000, clockMilliseconds: () => pausedAt ?? performance.now() })
  const running = capture(engine, options(), new StandInWriter())
  await jest.advanceTimersByTimeAsync(5_000)
  pausedAt = performance.now()
  tellDevices({ kind: 'suspended' })
  const outcome = await settle(running)
  if (outcome.kind !== 'captured') throw new Error(outcome.kind)
  // The writer has 96 000 frames.
  expect(outcome.captured.flaws).toEqual([{ kind: 'suspended', atFrame: 95_999, frames: 48_000 }])
  end()
})

test.each<[string, Parameters<typeof standInEngine>[0], typeof willing, object]>([
  ['a writer that never answers', {}, () => {}, { reason: 'no-answer', detail: expect.stringContaining('the disk'), anchors: null }],
  [
    'a writer that cannot begin',
    {},
    (message, writer) => writer.tell(message.kind === 'begin' ? { kind: 'failed', reason: 'unexpected', detail: 'locked', keptFrames: 0 } : { kind: 'begun' }),
    { detail: expect.stringContaining('locked'), anchors: null },
  ],
  ['a writer that dies before it begins', {}, (_, writer) => writer.die('died'), { detail: expect.stringContaining('died'), anchors: null }],
  ['a microphone that gives nothing', { delivers: false }, willing, { reason: 'no-answer', detail: expect.stringContaining('the microphone'), anchors: null }],
  [
    'a transport that never starts',
    { startsAfter: null },
    willing,
    { reason: 'no-answer', detail: expect.stringContaining('the sound system'), anchors: null },
  ],
  ['a browser that lets no sound start', { awake: false }, willing, { reason: 'asleep', anchors: null }],
])('%s ends the attempt with its reason, disarmed, and the next one works', async (_, engineOptions, answer, outcome) => {
  const { engine, end, isArmed } = standInEngine(engineOptions)
  expect(await settle(capture(engine, options(), new StandInWriter(answer)))).toMatchObject({ kind: 'failed', keptFrames: 0, ...outcome })
  expect(isArmed()).toBe(false)
  end()
  const next = standInEngine()
  const running = capture(next.engine, options(), new StandInWriter())
  await jest.advanceTimersByTimeAsync(500)
  next.engine.stop()
  expect(await settle(running)).toMatchObject({ kind: 'captured' })
  next.end()
})

test('given up while it waits for sound, or gets ready, nothing rolls', async () => {
  for (const startAbove of [0.1, null]) {
    const writer = new StandInWriter(startAbove === null ? () => {} : willing)
    const { engine, heard, end } = standInEngine({ delivers: false })
    const wish = options({ startAbove })
    const running = capture(engine, wish, writer)
    await jest.advanceTimersByTimeAsync(60_000 * (startAbove === null ? 0.001 : 1))
    if (startAbove === null) writer.tell({ kind: 'begun' })
    wish.abort.abort()
    expect(await settle(running)).toEqual({ kind: 'given-up' })
    expect(heard).toEqual([])
    end()
  }
})

test('a microphone gone before the start ends the attempt; one that goes in mid-take ends the take, kept with the place of the break', async () => {
  const before = standInEngine()
  const running = capture(before.engine, options({ startAbove: 0.5 }), new StandInWriter())
  await jest.advanceTimersByTimeAsync(100)
  before.tellDevices({ kind: 'input-gone' })
  expect(await settle(running)).toMatchObject({ kind: 'failed', reason: 'input-gone', anchors: null })
  before.end()
  const during = standInEngine()
  const rolling = capture(during.engine, options(), new StandInWriter())
  await jest.advanceTimersByTimeAsync(500)
  during.tellDevices({ kind: 'input-gone' })
  expect(await settle(rolling)).toMatchObject({ kind: 'captured', captured: { flaws: [expect.objectContaining({ kind: 'input-gone' })] } })
  during.end()
})

test('a full disk in mid-take, a writer that dies, a part of the engine that stops: what was kept by then is told, and the transport is stopped', async () => {
  const full = (writer: StandInWriter) => writer.tell({ kind: 'failed', reason: 'storage-full', detail: 'quota', keptFrames: 24_000 })
  for (const [fail, reason] of [
    [full, 'storage-full'],
    [(writer: StandInWriter) => writer.die('died'), 'unexpected'],
    [null, 'unexpected'],
  ] as const) {
    const writer = new StandInWriter((message, self) => void (message.kind === 'begin' && self.tell({ kind: 'begun' })))
    const { engine, heard, tellDevices, end } = standInEngine()
    const running = capture(engine, options(), writer)
    await jest.advanceTimersByTimeAsync(500)
    writer.tell({ kind: 'kept', frames: 24_000 })
    if (fail) fail(writer)
    else tellDevices({ kind: 'broken', detail: 'a sound processor stopped' })
    expect(await settle(running)).toMatchObject({ kind: 'failed', reason, keptFrames: 24_000, anchors: { anchorContextFrame: 1_000 } })
    expect(heard).toEqual(['play', 'stop'])
    expect(writer.ended).toBe(true)
    end()
  }
})
