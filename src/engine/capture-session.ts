/** One capture, from armed to stored: the writer at work, the transport rolling over it, what went wrong on the way. */
import { SAMPLE_RATE_HZ } from '../core/audio/frames'
import { findClockJumps, type ClockReading } from '../core/latency/clock-jumps'
import type { AssetId } from '../core/song/schema'
import type { CaptureFlaw } from '../core/song/recording'
import type { FromWriter, ToWriter } from './capture-writer'
import type { Engine } from './engine'
import type { PlayCommand } from './messages'
import { ARMED, CAPTURE, LEVEL, RING_FRAMES } from './shared-state'

export interface CaptureAnchors {
  captureContextFrame: number
  anchorContextFrame: number
  anchorSongFrame: number
}

export interface Captured extends CaptureAnchors {
  assetId: AssetId
  frames: number
  flaws: CaptureFlaw[]
}

export type CaptureOutcome = { kind: 'captured'; captured: Captured } | { kind: 'given-up' } | (Extract<FromWriter, { kind: 'failed' }> & { anchors: CaptureAnchors | null })

export interface CaptureOptions {
  assetId: AssetId
  play: Omit<PlayCommand, 'kind'>
  /** Linear level of the input at which the transport starts by itself; null: at once. */
  startAbove: number | null
  /** The capture is armed and waits for sound. */
  onWaiting: () => void
  /** Once the clock's anchors are known. */
  onPlaced: (anchors: CaptureAnchors) => void
  onKept: (frames: number) => void
  /** Seconds of sound that wait for the disk, when there are many. */
  onBacklog: (seconds: number) => void
  /** Gives up while waiting for sound. */
  signal: AbortSignal
}

const CLOCK_READING_MILLISECONDS = 100
const BACKLOG_SECONDS = 0.8

/** A writer that has loaded its code, so that recording begins without waiting for it. */
let spare: Worker | null = null

function startWriter(): Worker {
  return new Worker(new URL('./capture-writer.ts', import.meta.url), { type: 'module', name: 'plush-capture-writer' })
}

/** To be called when a recording may come. */
export function warmUp(): void {
  spare ??= startWriter()
}

/** Arms the capture, then rolls the transport; settles once the transport has stopped, by itself or not, and all is stored. */
export async function capture(engine: Engine, options: CaptureOptions): Promise<CaptureOutcome> {
  const { control, levels } = engine.capture
  Atomics.store(control, CAPTURE.armed, ARMED.no)
  for (const place of [CAPTURE.writtenFrames, CAPTURE.readFrames, CAPTURE.lostFrames, CAPTURE.gapBlocks]) Atomics.store(control, place, 0)
  const flaws: CaptureFlaw[] = []
  const forgetFlaws = engine.listenToCapture(flaw => flaws.push(flaw))
  const writer = spare ?? startWriter()
  spare = null
  const told = new WriterListener(writer, options.onKept)
  const clock: ClockReading[] = []
  let timer: ReturnType<typeof setInterval> | undefined
  try {
    if (options.startAbove !== null) {
      levels[LEVEL.threshold] = options.startAbove
      Atomics.store(control, CAPTURE.armed, ARMED.waiting)
      options.onWaiting()
      await until(() => Atomics.load(control, CAPTURE.armed) === ARMED.yes || options.signal.aborted)
      if (options.signal.aborted) return { kind: 'given-up' }
    }
    writer.postMessage({ kind: 'begin', assetId: options.assetId, state: engine.capture } satisfies ToWriter)
    await Promise.race([told.begun, told.failedEarly])
    if (options.startAbove === null) {
      Atomics.store(control, CAPTURE.armed, ARMED.yes)
      await until(() => Atomics.load(control, CAPTURE.writtenFrames) > 0)
    }
    const captureContextFrame = Atomics.load(control, CAPTURE.firstContextFrame)
    const started = engine.next('started')
    await engine.play(options.play)
    const { contextFrame, songFrame } = await started
    const anchors: CaptureAnchors = { captureContextFrame, anchorContextFrame: contextFrame, anchorSongFrame: songFrame }
    options.onPlaced(anchors)
    timer = setInterval(() => {
      clock.push({ milliseconds: performance.now(), frames: Math.round(engine.context.currentTime * SAMPLE_RATE_HZ) })
      const backlog = (Atomics.load(control, CAPTURE.writtenFrames) - Atomics.load(control, CAPTURE.readFrames)) / SAMPLE_RATE_HZ
      if (backlog > BACKLOG_SECONDS) options.onBacklog(backlog)
    }, CLOCK_READING_MILLISECONDS)
    const frameNow = () => Math.round(engine.context.currentTime * SAMPLE_RATE_HZ) - captureContextFrame
    const forgetEvents = engine.listenToDevices(event => {
      if (event.kind === 'input-gone') flaws.push({ atFrame: frameNow(), frames: SAMPLE_RATE_HZ, kind: 'input-gone' })
      else if (event.kind === 'suspended') flaws.push({ atFrame: frameNow(), frames: SAMPLE_RATE_HZ, kind: 'suspended' })
      else return
      // What was sung until now is kept; what would follow could not be placed.
      engine.stop()
    })
    await Promise.race([engine.next('stopped'), told.failedEarly])
    forgetEvents()
    // What was sung until now is still on its way in.
    await sleep((1_000 * engine.roundTripFrames) / SAMPLE_RATE_HZ + 30)
    Atomics.store(control, CAPTURE.armed, ARMED.no)
    await sleep(20)
    writer.postMessage({ kind: 'finish' } satisfies ToWriter)
    const outcome = await told.finished
    if (outcome.kind === 'failed') {
      engine.stop()
      return { ...outcome, anchors }
    }
    for (const { atFrame, frames } of findClockJumps(clock)) flaws.push({ atFrame: atFrame - captureContextFrame, frames: Math.abs(frames), kind: 'clock-jump' })
    return { kind: 'captured', captured: { assetId: options.assetId, frames: outcome.facts.frames, flaws, ...anchors } }
  } finally {
    clearInterval(timer)
    forgetFlaws()
    Atomics.store(control, CAPTURE.armed, ARMED.no)
    writer.terminate()
    warmUp()
  }
}

/** What comes in over a stretch of the clock, kept in memory only: for checks and measurements. Not while a capture runs. */
export async function overhear(engine: Engine, fromContextFrame: number, frames: number): Promise<Float32Array<ArrayBuffer>> {
  const { control, ring } = engine.capture
  Atomics.store(control, CAPTURE.armed, ARMED.no)
  await sleep(15)
  for (const place of [CAPTURE.writtenFrames, CAPTURE.readFrames, CAPTURE.lostFrames, CAPTURE.gapBlocks]) Atomics.store(control, place, 0)
  Atomics.store(control, CAPTURE.armed, ARMED.yes)
  const samples = new Float32Array(frames)
  try {
    for (let read = 0; ; ) {
      const written = Atomics.load(control, CAPTURE.writtenFrames)
      const first = Atomics.load(control, CAPTURE.firstContextFrame)
      for (; read < written; read++) {
        const place = first + read - fromContextFrame
        if (place >= 0 && place < frames) samples[place] = ring[read % RING_FRAMES]!
      }
      Atomics.store(control, CAPTURE.readFrames, read)
      if (read > 0 && first + read >= fromContextFrame + frames) return samples
      await sleep(20)
    }
  } finally {
    Atomics.store(control, CAPTURE.armed, ARMED.no)
  }
}

class WriterListener {
  readonly begun: Promise<void>
  readonly finished: Promise<Extract<FromWriter, { kind: 'finished' | 'failed' }>>
  readonly failedEarly: Promise<void>

  constructor(writer: Worker, onKept: (frames: number) => void) {
    const begun = Promise.withResolvers<void>()
    const finished = Promise.withResolvers<Extract<FromWriter, { kind: 'finished' | 'failed' }>>()
    const failedEarly = Promise.withResolvers<void>()
    this.begun = begun.promise
    this.finished = finished.promise
    this.failedEarly = failedEarly.promise
    let keptFrames = 0
    writer.onmessage = (event: MessageEvent<FromWriter>) => {
      const message = event.data
      if (message.kind === 'begun') begun.resolve()
      else if (message.kind === 'kept') onKept((keptFrames = message.frames))
      else {
        finished.resolve(message)
        if (message.kind === 'failed') failedEarly.resolve()
      }
    }
    writer.onerror = event => {
      finished.resolve({ kind: 'failed', reason: 'unexpected', detail: event.message, keptFrames })
      failedEarly.resolve()
    }
  }
}

function sleep(milliseconds: number): Promise<void> {
  return new Promise(resolve => setTimeout(resolve, milliseconds))
}

async function until(condition: () => boolean): Promise<void> {
  while (!condition()) await sleep(5)
}
