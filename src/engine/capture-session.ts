/** One capture, from armed to stored: the writer at work, the transport rolling over it, what went wrong on the way. */
import { SAMPLE_RATE_HZ } from '../core/audio/frames'
import { findClockJumps, type ClockReading } from '../core/latency/clock-jumps'
import type { AssetId } from '../core/song/schema'
import type { CaptureFlaw } from '../core/song/recording'
import type { FromWriter, ToWriter } from './capture-writer'
import type { DeviceEvent, Engine } from './engine'
import type { PlayCommand } from './messages'
import { ARMED, CAPTURE, LEVEL, RING_FRAMES } from './shared-state'
import { deferred, NoAnswerError, sleep, until, within } from './waiting'

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

/** Why a capture came to nothing, or ended before it was stopped. */
export type CaptureFailure = 'storage-full' | 'no-answer' | 'input-gone' | 'broken' | 'asleep' | 'unexpected'

export type CaptureOutcome =
  | { kind: 'captured'; captured: Captured }
  | { kind: 'given-up' }
  /** What was stored by then is kept; without anchors the transport never rolled. */
  | { kind: 'failed'; reason: CaptureFailure; detail: string; keptFrames: number; anchors: CaptureAnchors | null }

/** What of the engine a capture needs. */
export type CaptureEngine = Pick<
  Engine,
  'capture' | 'clockSeconds' | 'roundTripFrames' | 'wake' | 'play' | 'stop' | 'next' | 'listenToCapture' | 'listenToDevices'
>

/** A worker that runs `capture-writer`. */
export type Writer = Pick<Worker, 'postMessage' | 'terminate' | 'onmessage' | 'onerror' | 'onmessageerror'>

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
  /** Gives up before the transport rolls. */
  signal: AbortSignal
}

const CLOCK_READING_MILLISECONDS = 100
const BACKLOG_SECONDS = 0.8

/** Each part of what must answer before a take begins has so long for it. */
/** Flaws after which nothing more was sung. */
const ENDINGS: ReadonlySet<CaptureFlaw['kind']> = new Set(['input-gone', 'suspended'])
const ANSWER_MILLISECONDS = 5_000
/** All that waits for the disk may take so long to be written after a take. */
const FINISH_MILLISECONDS = 60_000

/**
 * Arms the capture, then rolls the transport; settles once the transport has stopped, by itself or not, and all is stored. Never rejects.
 * @param writer Used for this capture alone, and ended with it.
 */
export async function capture(engine: CaptureEngine, options: CaptureOptions, writer: Writer): Promise<CaptureOutcome> {
  const { control } = engine.capture
  disarm(control)
  for (const place of [CAPTURE.writtenFrames, CAPTURE.readFrames, CAPTURE.lostFrames, CAPTURE.gapBlocks]) Atomics.store(control, place, 0)
  const session = new Session(engine, options, writer)
  try {
    return await session.run()
  } catch (error) {
    engine.stop()
    const reason = session.gone ?? (error instanceof NoAnswerError ? 'no-answer' : 'unexpected')
    return { kind: 'failed', reason, detail: String(error), keptFrames: session.told.keptFrames, anchors: session.anchors }
  } finally {
    session.end()
    disarm(control)
  }
}

function disarm(control: Int32Array): void {
  Atomics.store(control, CAPTURE.armed, ARMED.no)
}

/** What one capture holds on to, and lets go of at its end. */
class Session {
  anchors: CaptureAnchors | null = null
  /** What cannot be waited for any longer. */
  gone: 'input-gone' | 'broken' | null = null
  readonly told: WriterListener
  private readonly flaws: CaptureFlaw[] = []
  private readonly clock: ClockReading[] = []
  private readonly forget: (() => void)[] = []
  private timer: ReturnType<typeof setInterval> | undefined

  constructor(
    private readonly engine: CaptureEngine,
    private readonly options: CaptureOptions,
    private readonly writer: Writer,
  ) {
    this.told = new WriterListener(writer, options.onKept)
    this.forget.push(
      engine.listenToCapture(flaw => this.flaws.push(flaw)),
      engine.listenToDevices(event => this.notice(event.kind)),
    )
  }

  end(): void {
    clearInterval(this.timer)
    for (const stop of this.forget) stop()
    this.writer.terminate()
  }

  async run(): Promise<CaptureOutcome> {
    const { engine, options, told } = this
    const { control } = engine.capture
    if (!(await engine.wake())) return { kind: 'failed', reason: 'asleep', detail: 'the browser lets no sound start', keptFrames: 0, anchors: null }
    const givenUp = () => options.signal.aborted || this.gone !== null
    if (options.startAbove !== null) await this.waitForSound(options.startAbove, givenUp)
    if (!givenUp()) await this.begin(givenUp)
    if (this.gone) return { kind: 'failed', reason: this.gone, detail: 'before it began', keptFrames: 0, anchors: null }
    if (options.signal.aborted) return { kind: 'given-up' }
    const anchors = await this.roll()
    await Promise.race([engine.next('stopped'), told.failedEarly])
    // The last sung frames reach the page one round trip later.
    await sleep((1_000 * engine.roundTripFrames) / SAMPLE_RATE_HZ + 30)
    disarm(control)
    await sleep(20)
    this.writer.postMessage({ kind: 'finish' } satisfies ToWriter)
    const outcome = await within(told.finished, FINISH_MILLISECONDS, 'the disk')
    if (outcome.kind === 'failed') {
      engine.stop()
      return { ...outcome, anchors }
    }
    for (const { atFrame, frames } of findClockJumps(this.clock))
      this.flaws.push({ atFrame: atFrame - anchors.captureContextFrame, frames: Math.abs(frames), kind: 'clock-jump' })
    const { frames } = outcome.facts
    // Why it ended is said of its end, also where the last frames did not come any more.
    const flaws = this.flaws.map(flaw => (ENDINGS.has(flaw.kind) ? { ...flaw, atFrame: Math.max(0, Math.min(flaw.atFrame, frames - 1)) } : flaw))
    return { kind: 'captured', captured: { assetId: options.assetId, frames, flaws, ...anchors } }
  }

  /** The ring holds the last second until something is loud enough; that may take as long as the singer likes. */
  private async waitForSound(above: number, givenUp: () => boolean): Promise<void> {
    const { control, levels } = this.engine.capture
    levels[LEVEL.threshold] = above
    Atomics.store(control, CAPTURE.armed, ARMED.waiting)
    this.options.onWaiting()
    await until(() => Atomics.load(control, CAPTURE.armed) === ARMED.yes, { given: givenUp })
  }

  /** The writer is at work and the first block has come in. */
  private async begin(givenUp: () => boolean): Promise<void> {
    const { engine, told } = this
    const { control } = engine.capture
    this.writer.postMessage({ kind: 'begin', assetId: this.options.assetId, state: engine.capture } satisfies ToWriter)
    const failed = await within(Promise.race([told.begun, told.failedEarly]), ANSWER_MILLISECONDS, 'the disk')
    if (failed) throw new Error(failed.detail)
    if (Atomics.load(control, CAPTURE.armed) === ARMED.no) Atomics.store(control, CAPTURE.armed, ARMED.yes)
    await until(() => Atomics.load(control, CAPTURE.writtenFrames) > 0, { milliseconds: ANSWER_MILLISECONDS, what: 'the microphone', given: givenUp })
  }

  private async roll(): Promise<CaptureAnchors> {
    const { engine, options } = this
    const { control } = engine.capture
    const captureContextFrame = Atomics.load(control, CAPTURE.firstContextFrame)
    const started = engine.next('started')
    if (!(await engine.play(options.play))) throw new NoAnswerError('the browser')
    const { contextFrame, songFrame } = await within(started, ANSWER_MILLISECONDS, 'the sound system')
    const anchors = { captureContextFrame, anchorContextFrame: contextFrame, anchorSongFrame: songFrame }
    this.anchors = anchors
    options.onPlaced(anchors)
    this.timer = setInterval(() => {
      this.clock.push({ milliseconds: performance.now(), frames: Math.round(engine.clockSeconds * SAMPLE_RATE_HZ) })
      const backlog = (Atomics.load(control, CAPTURE.writtenFrames) - Atomics.load(control, CAPTURE.readFrames)) / SAMPLE_RATE_HZ
      if (backlog > BACKLOG_SECONDS) options.onBacklog(backlog)
    }, CLOCK_READING_MILLISECONDS)
    // It may have happened while the transport was about to roll.
    if (this.gone) this.notice(this.gone)
    return anchors
  }

  private notice(kind: DeviceEvent['kind']): void {
    if (kind === 'input-gone' || kind === 'broken') this.gone = kind
    if (!this.anchors) return
    if (kind === 'input-gone' || kind === 'suspended') this.stopBecause(kind)
    else if (kind === 'broken') this.told.fail('a part of the sound system stopped')
  }

  /** What was sung until now is kept; what would follow could not be placed. */
  private stopBecause(kind: 'input-gone' | 'suspended'): void {
    const { engine } = this
    const atFrame = Math.round(engine.clockSeconds * SAMPLE_RATE_HZ) - this.anchors!.captureContextFrame
    this.flaws.push({ atFrame, frames: SAMPLE_RATE_HZ, kind })
    // The clock may stand from now on, for as long as the machine likes: that is no leap of it.
    clearInterval(this.timer)
    engine.stop()
  }
}

/**
 * What comes in over a stretch of the clock, kept in memory only: for checks and measurements. Not while a capture runs. Rejects
 * with NoAnswerError if it does not come.
 */
export async function overhear(engine: CaptureEngine, fromContextFrame: number, frames: number): Promise<Float32Array<ArrayBuffer>> {
  const { control, ring } = engine.capture
  Atomics.store(control, CAPTURE.armed, ARMED.no)
  await sleep(15)
  for (const place of [CAPTURE.writtenFrames, CAPTURE.readFrames, CAPTURE.lostFrames, CAPTURE.gapBlocks]) Atomics.store(control, place, 0)
  Atomics.store(control, CAPTURE.armed, ARMED.yes)
  const samples = new Float32Array(frames)
  const end = performance.now() + (1_000 * frames) / SAMPLE_RATE_HZ + ANSWER_MILLISECONDS
  try {
    for (let read = 0; performance.now() < end;) {
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
    throw new NoAnswerError('the microphone')
  } finally {
    Atomics.store(control, CAPTURE.armed, ARMED.no)
  }
}

class WriterListener {
  readonly begun: Promise<null>
  readonly finished: Promise<Extract<FromWriter, { kind: 'finished' | 'failed' }>>
  /** The failure, should there be one; never settles otherwise. */
  readonly failedEarly: Promise<Extract<FromWriter, { kind: 'failed' }>>
  keptFrames = 0
  /** The writer cannot go on, whoever noticed. */
  readonly fail: (detail: string) => void

  constructor(writer: Writer, onKept: (frames: number) => void) {
    const begun = deferred<null>()
    const finished = deferred<Extract<FromWriter, { kind: 'finished' | 'failed' }>>()
    const failedEarly = deferred<Extract<FromWriter, { kind: 'failed' }>>()
    this.begun = begun.promise
    this.finished = finished.promise
    this.failedEarly = failedEarly.promise
    const failed = (message: Extract<FromWriter, { kind: 'failed' }>) => {
      finished.resolve(message)
      failedEarly.resolve(message)
    }
    this.fail = detail => failed({ kind: 'failed', reason: 'unexpected', detail, keptFrames: this.keptFrames })
    writer.onmessage = (event: MessageEvent<FromWriter>) => {
      const message = event.data
      if (message.kind === 'begun') begun.resolve(null)
      else if (message.kind === 'kept') onKept((this.keptFrames = message.frames))
      else if (message.kind === 'failed') failed(message)
      else finished.resolve(message)
    }
    writer.onerror = event => this.fail(event.message)
    writer.onmessageerror = () => this.fail('a message could not be read')
  }
}
