/** The engine as the page sees it: one audio context, the mix worklet with its feeder, inputs and capture. */
import type { Mono } from '../core/audio/frames'
import { SAMPLE_RATE_HZ } from '../core/audio/frames'
import type { Grid } from '../core/beat/grid'
import type { MixPlan } from '../core/mix/plan'
import type { AssetId } from '../core/song/schema'
import type { FromWriter, ToWriter } from './capture-writer'
import type { FromMix, PlayCommand, ToFeeder, ToMix, ToSinger } from './messages'
import { CAPTURE, makeCaptureState, makeTransportState, songFrameAt, TRANSPORT, type CaptureState } from './shared-state'
import workletUrl from './worklet.ts?worker&url'

/** The practice singer's simulated interface: 23 ms from the worklet's output back to its input. */
export const SIMULATED_ROUND_TRIP_FRAMES = 1_105

export type RoundTrip = { frames: number; source: 'estimated' | 'simulated' }

export type InputResult =
  | { kind: 'open'; label: string; channels: number; processing: string[] }
  | { kind: 'failed'; reason: 'not-allowed' | 'not-found' | 'in-use' | 'unavailable' }

export interface Captured {
  assetId: AssetId
  frames: number
  captureContextFrame: number
  anchorContextFrame: number
  anchorSongFrame: number
  lostFrames: number
  gapBlocks: number
  clippedRuns: number
}

/** Made once, after a gesture of the singer's; everything runs at 48 kHz. */
export class Engine {
  readonly transport: Float64Array<SharedArrayBuffer>
  readonly capture: CaptureState
  private readonly feeder: Worker
  private readonly singer: AudioWorkletNode
  private readonly captureNode: AudioWorkletNode
  private source: AudioNode | null = null
  private stream: MediaStream | null = null
  private beside: AudioBufferSourceNode | null = null
  private listeners = new Set<(message: FromMix) => void>()

  private constructor(readonly context: AudioContext, readonly mix: AudioWorkletNode, feeder: Worker, transport: Float64Array<SharedArrayBuffer>) {
    this.transport = transport
    this.feeder = feeder
    this.capture = makeCaptureState()
    this.singer = new AudioWorkletNode(context, 'plush-singer', { numberOfInputs: 0, outputChannelCount: [1], processorOptions: { transport, roundTripFrames: SIMULATED_ROUND_TRIP_FRAMES } })
    this.captureNode = new AudioWorkletNode(context, 'plush-capture', { channelCountMode: 'max', processorOptions: this.capture })
    // A node is processed only while it leads somewhere: the capture leads to silence.
    const silence = new GainNode(context, { gain: 0 })
    this.captureNode.connect(silence).connect(context.destination)
    mix.port.onmessage = (event: MessageEvent<FromMix>) => this.listeners.forEach(listener => listener(event.data))
  }

  /** @throws Error if the browser gives no audio, or the page is not isolated. */
  static async start(): Promise<Engine> {
    if (!globalThis.crossOriginIsolated) throw new Error('not-isolated')
    const context = new AudioContext({ sampleRate: SAMPLE_RATE_HZ, latencyHint: 'interactive' })
    await context.audioWorklet.addModule(workletUrl)
    const transport = makeTransportState()
    const mix = new AudioWorkletNode(context, 'plush-mix', { numberOfInputs: 0, outputChannelCount: [2], processorOptions: { transport } })
    mix.connect(context.destination)
    const feeder = new Worker(new URL('./feeder.ts', import.meta.url), { type: 'module', name: 'plush-feeder' })
    const channel = new MessageChannel()
    mix.port.postMessage({ feeder: channel.port1 }, [channel.port1])
    feeder.postMessage({ kind: 'connect', port: channel.port2, transport } satisfies ToFeeder, [channel.port2])
    const engine = new Engine(context, mix, feeder, transport)
    if (context.state !== 'running') await context.resume()
    return engine
  }

  listen(listener: (message: FromMix) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  setPlan(plan: MixPlan): void {
    this.command({ kind: 'plan', plan })
  }

  setClick(grid: Grid, gain: number, countInGain: number): void {
    this.command({ kind: 'click', grid, gain, countInGain })
  }

  async play(command: Omit<PlayCommand, 'kind'>): Promise<void> {
    if (this.context.state !== 'running') await this.context.resume()
    this.command({ kind: 'play', ...command })
  }

  /** Plays a short sound beside the mix, at once, to hear something by; it is in no recording and no delivery. Stops what played so before. */
  async playBeside(sound: Mono | null, looping = false): Promise<void> {
    this.beside?.stop()
    this.beside = null
    if (!sound) return
    if (this.context.state !== 'running') await this.context.resume()
    const buffer = this.context.createBuffer(1, sound.length, SAMPLE_RATE_HZ)
    buffer.copyToChannel(sound, 0)
    const source = new AudioBufferSourceNode(this.context, { buffer, loop: looping })
    source.connect(this.context.destination)
    source.start()
    this.beside = source
  }

  stop(): void {
    this.command({ kind: 'stop' })
  }

  get isPlaying(): boolean {
    return this.transport[TRANSPORT.playing] === 1
  }

  /** The song frame that reaches the ears now. */
  get heardFrame(): number {
    if (!this.isPlaying) return this.transport[TRANSPORT.songFrame]!
    const contextFrame = (this.context.currentTime - (this.context.outputLatency || 0)) * SAMPLE_RATE_HZ
    const anchor = this.transport[TRANSPORT.anchorContextFrame]!
    return songFrameAt(this.transport, Math.max(anchor, contextFrame))
  }

  /** The browser's microphones by name; names are empty until one was allowed. */
  static async listInputs(): Promise<{ deviceId: string; label: string }[]> {
    const devices = await navigator.mediaDevices.enumerateDevices()
    return devices.filter(device => device.kind === 'audioinput').map(({ deviceId, label }) => ({ deviceId, label }))
  }

  /** Opens a microphone as it is: nothing cancelled, suppressed or levelled. It stays open until another input is. */
  async openMicrophone(deviceId: string | null): Promise<InputResult> {
    this.closeInput()
    if (!navigator.mediaDevices) return { kind: 'failed', reason: 'unavailable' }
    try {
      const raw = { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: { ideal: 2 } }
      this.stream = await navigator.mediaDevices.getUserMedia({ audio: deviceId ? { ...raw, deviceId: { exact: deviceId } } : raw })
    } catch (error) {
      const { name } = error as DOMException
      return { kind: 'failed', reason: name === 'NotAllowedError' ? 'not-allowed' : name === 'NotFoundError' || name === 'OverconstrainedError' ? 'not-found' : name === 'NotReadableError' ? 'in-use' : 'unavailable' }
    }
    const track = this.stream.getAudioTracks()[0]!
    const settings = track.getSettings()
    this.source = this.context.createMediaStreamSource(this.stream)
    this.source.connect(this.captureNode)
    const processing = [settings.echoCancellation && 'echo cancellation', settings.noiseSuppression && 'noise suppression', settings.autoGainControl && 'automatic gain'].filter(entry => typeof entry === 'string')
    return { kind: 'open', label: track.label, channels: settings.channelCount ?? 1, processing }
  }

  openPracticeSinger(): InputResult {
    this.closeInput()
    this.source = this.singer
    this.singer.connect(this.captureNode)
    return { kind: 'open', label: 'Practice singer', channels: 1, processing: [] }
  }

  closeInput(): void {
    this.source?.disconnect(this.captureNode)
    this.source = null
    this.stream?.getTracks().forEach(track => track.stop())
    this.stream = null
  }

  setChannel(channel: number): void {
    Atomics.store(this.capture.control, CAPTURE.channel, channel)
  }

  /** Gives the practice singer what to sing. The samples are transferred. */
  setVoice(voice: Mono, originFrame: number, passFrames: number): void {
    this.singer.port.postMessage({ kind: 'voice', voice, originFrame, passFrames } satisfies ToSinger, [voice.buffer])
  }

  /** True while an opened microphone still delivers. */
  get inputIsLive(): boolean {
    return this.source === this.singer || (this.stream?.getAudioTracks()[0]?.readyState === 'live')
  }

  /** From what the singer hears to what is captured of it, as far as it is known. */
  get roundTrip(): RoundTrip {
    if (this.source === this.singer) return { frames: SIMULATED_ROUND_TRIP_FRAMES, source: 'simulated' }
    const input = this.stream?.getAudioTracks()[0]?.getSettings() as { latency?: number } | undefined
    const seconds = (this.context.baseLatency || 0) + (this.context.outputLatency || 0) + (input?.latency ?? 0)
    return { frames: Math.round(seconds * SAMPLE_RATE_HZ), source: 'estimated' }
  }

  /**
   * Arms the capture, then rolls the transport. `onPlaced` is called once the clock's anchors are known.
   * The promise of `done` settles after `finish` was called or the transport stopped by itself.
   */
  async record(options: {
    assetId: AssetId
    play: Omit<PlayCommand, 'kind'>
    onPlaced: (anchors: { captureContextFrame: number; anchorContextFrame: number; anchorSongFrame: number }) => void
    onKept: (frames: number) => void
  }): Promise<RecordingInProgress> {
    const { control } = this.capture
    Atomics.store(control, CAPTURE.armed, 0)
    for (const place of [CAPTURE.writtenFrames, CAPTURE.readFrames, CAPTURE.lostFrames, CAPTURE.gapBlocks]) Atomics.store(control, place, 0)
    const writer = new Worker(new URL('./capture-writer.ts', import.meta.url), { type: 'module', name: 'plush-capture-writer' })
    const told = new WriterListener(writer, options.onKept)
    writer.postMessage({ kind: 'begin', assetId: options.assetId, state: this.capture } satisfies ToWriter)
    await told.begun
    Atomics.store(control, CAPTURE.armed, 1)
    await until(() => Atomics.load(control, CAPTURE.writtenFrames) > 0)
    const captureContextFrame = Atomics.load(control, CAPTURE.firstContextFrame)
    const started = new Promise<{ contextFrame: number; songFrame: number }>(resolve => {
      const forget = this.listen(message => {
        if (message.kind !== 'started') return
        forget()
        resolve(message)
      })
    })
    await this.play(options.play)
    const { contextFrame, songFrame } = await started
    const anchors = { captureContextFrame, anchorContextFrame: contextFrame, anchorSongFrame: songFrame }
    options.onPlaced(anchors)
    let ending: Promise<CaptureOutcome> | null = null
    const end = async (): Promise<CaptureOutcome> => {
      // What was sung until now is still on its way in.
      await sleep((1_000 * this.roundTrip.frames) / SAMPLE_RATE_HZ + 30)
      Atomics.store(control, CAPTURE.armed, 0)
      await sleep(20)
      writer.postMessage({ kind: 'finish' } satisfies ToWriter)
      const outcome = await told.finished
      writer.terminate()
      if (outcome.kind === 'failed') return outcome
      const { facts, lostFrames, gapBlocks } = outcome
      return { kind: 'captured', captured: { assetId: options.assetId, frames: facts.frames, clippedRuns: facts.clippedRuns, lostFrames, gapBlocks, ...anchors } }
    }
    const finish = () => (ending ??= end())
    const stopped = new Promise<void>(resolve => {
      const forget = this.listen(message => {
        if (message.kind !== 'stopped') return
        forget()
        resolve()
      })
    })
    return { done: Promise.race([stopped, told.failedEarly]).then(finish) }
  }

  private command(message: ToMix): void {
    this.feeder.postMessage(message satisfies ToFeeder)
  }
}

export type CaptureOutcome = { kind: 'captured'; captured: Captured } | Extract<FromWriter, { kind: 'failed' }>

export interface RecordingInProgress {
  /** Settles once the transport has stopped and all is stored. */
  done: Promise<CaptureOutcome>
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
