/** The engine as the page sees it: one audio context, the mix worklet with its feeder, inputs and capture. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ, type Mono } from '../core/audio/frames'
import type { MonitorSettings } from '../core/monitor/monitor-chain'
import type { MeterId, MixPlan } from '../core/mix/plan'
import { USUAL_INTERFACE, type InterfaceSettings } from '../core/rehearsal/simulated-interface'
import type { CaptureFlaw } from '../core/song/recording'
import type { AssetId } from '../core/song/schema'
import type { FromCapture, FromFeederToPage, FromMix, FromMonitor, PlayCommand, ToFeeder, ToInterface, ToMix, ToOutput } from './messages'
import { planMessage } from './plan-message'
import { CAPTURE, makeCaptureState, makeTransportState, songFrameAt, TRANSPORT, type CaptureState } from './shared-state'
import { startFeederThread, workletUrl } from './threads'
import { within } from './waiting'

export type InputResult =
  { kind: 'open'; label: string; channels: number; processing: string[] } | { kind: 'failed'; reason: 'not-allowed' | 'not-found' | 'in-use' | 'unavailable' }

/** Something happened to the devices, or inside the engine, by itself. */
export type DeviceEvent =
  | { kind: 'input-gone' }
  | { kind: 'devices-changed' }
  | { kind: 'suspended' }
  | { kind: 'running' }
  | { kind: 'howl' }
  /** A stretch of sound is not in storage; silence stands for it, everything else plays on. */
  | { kind: 'missing-sound'; assetId: AssetId; startFrame: number; endFrame: number }
  /** Stored sound could not be read just now; the next command tries again. */
  | { kind: 'read-failed'; detail: string }
  /** A part of the engine died: it must be started anew. */
  | { kind: 'broken'; detail: string }

/** Made once, after a gesture of the singer's; everything runs at 48 kHz. */
export class Engine {
  readonly transport: Float64Array<SharedArrayBuffer>
  readonly capture: CaptureState
  private feeder: Worker
  private feederDeaths = 0
  /** What a feeder that is started anew must be told. */
  private lastPlan: MixPlan | null = null
  private lastClick: ToMix | null = null
  private readonly simulated: AudioWorkletNode
  private readonly captureNode: AudioWorkletNode
  private readonly monitor: AudioWorkletNode
  private readonly output: AudioWorkletNode
  private interfaceSettings = USUAL_INTERFACE
  private source: AudioNode | null = null
  private stream: MediaStream | null = null
  private beside: AudioBufferSourceNode | null = null
  private readonly listeners = new Set<(message: FromMix) => void>()
  private readonly captureListeners = new Set<(flaw: CaptureFlaw) => void>()
  private readonly deviceListeners = new Set<(event: DeviceEvent) => void>()
  /** Counts what makes a measured round trip void: inputs and outputs opened, the audio suspended. */
  opening = 0
  /** Where the round trip is better known than by the browser's figures. */
  knownRoundTripFrames: number | null = null

  private constructor(
    readonly context: AudioContext,
    readonly mix: AudioWorkletNode,
    transport: Float64Array<SharedArrayBuffer>,
  ) {
    this.transport = transport
    this.feeder = this.startFeeder()
    this.capture = makeCaptureState()
    const { control } = this.capture
    this.simulated = new AudioWorkletNode(context, 'plush-interface', { numberOfInputs: 0, outputChannelCount: [1], processorOptions: { transport } })
    this.captureNode = new AudioWorkletNode(context, 'plush-capture', { channelCountMode: 'max', processorOptions: this.capture })
    this.monitor = new AudioWorkletNode(context, 'plush-monitor', { channelCountMode: 'max', outputChannelCount: [2], processorOptions: { control } })
    this.output = new AudioWorkletNode(context, 'plush-output', { outputChannelCount: [2] })
    mix.connect(this.output)
    this.monitor.connect(this.output)
    this.output.connect(context.destination)
    // A node is processed only while it leads somewhere: the capture leads to silence.
    const silence = new GainNode(context, { gain: 0 })
    this.captureNode.connect(silence).connect(context.destination)
    mix.port.onmessage = (event: MessageEvent<FromMix>) => this.listeners.forEach(listener => listener(event.data))
    this.captureNode.port.onmessage = (event: MessageEvent<FromCapture>) => this.captureListeners.forEach(listener => listener(event.data))
    this.monitor.port.onmessage = (event: MessageEvent<FromMonitor>) => this.tellDevices(event.data)
    for (const node of [mix, this.captureNode, this.monitor, this.output, this.simulated])
      node.onprocessorerror = () => this.tellDevices({ kind: 'broken', detail: 'a sound processor stopped' })
    context.onstatechange = () => {
      if (context.state === 'running') return this.tellDevices({ kind: 'running' })
      this.reopened()
      this.tellDevices({ kind: 'suspended' })
    }
    navigator.mediaDevices?.addEventListener('devicechange', () => this.tellDevices({ kind: 'devices-changed' }))
  }

  /** It may be asleep until the first gesture: see `wake`. @throws Error if the browser gives no audio, or the page is not isolated. */
  static async start(): Promise<Engine> {
    if (!globalThis.crossOriginIsolated) throw new Error('not-isolated')
    const context = new AudioContext({ sampleRate: SAMPLE_RATE_HZ, latencyHint: 'interactive' })
    try {
      await within(context.audioWorklet.addModule(workletUrl), START_MILLISECONDS, 'the sound system')
      const transport = makeTransportState()
      const mix = new AudioWorkletNode(context, 'plush-mix', { numberOfInputs: 0, outputChannelCount: [2], processorOptions: { transport } })
      return new Engine(context, mix, transport)
    } catch (error) {
      void context.close()
      throw error
    }
  }

  private startFeeder(): Worker {
    const feeder = startFeederThread()
    const channel = new MessageChannel()
    this.mix.port.postMessage({ feeder: channel.port1 }, [channel.port1])
    feeder.postMessage({ kind: 'connect', port: channel.port2, transport: this.transport } satisfies ToFeeder, [channel.port2])
    feeder.onmessage = ({ data }: MessageEvent<FromFeederToPage>) => {
      if (data.kind === 'missing') this.tellDevices({ ...data, kind: 'missing-sound' })
      else this.tellDevices({ kind: 'read-failed', detail: data.detail })
    }
    feeder.onerror = event => this.replaceFeeder(event.message)
    feeder.onmessageerror = () => this.replaceFeeder('a message could not be read')
    return feeder
  }

  /** A feeder that died is started anew with what it knew; one that dies again and again is told of. */
  private replaceFeeder(detail: string): void {
    this.feeder.terminate()
    if (++this.feederDeaths > MOST_FEEDER_DEATHS) return this.tellDevices({ kind: 'broken', detail })
    this.feeder = this.startFeeder()
    const plan = this.lastPlan && ({ kind: 'plan', plan: this.lastPlan } as const)
    for (const message of [plan, this.lastClick]) if (message) this.feeder.postMessage(message satisfies ToFeeder)
    this.tellDevices({ kind: 'read-failed', detail })
  }

  /** Ends everything that runs, so that another can be started. */
  async close(): Promise<void> {
    this.closeInput()
    this.feeder.terminate()
    await this.context.close().catch(() => {})
  }

  /** True once sound runs. Browsers let none start before a click or a key: then false, after a moment. */
  async wake(): Promise<boolean> {
    if (this.context.state !== 'running') await within(this.context.resume(), WAKE_MILLISECONDS, 'the browser').catch(() => {})
    return this.context.state === 'running'
  }

  listen(listener: (message: FromMix) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** The next message of a kind from the transport. */
  next<Kind extends FromMix['kind']>(kind: Kind): Promise<Extract<FromMix, { kind: Kind }>> {
    return new Promise(resolve => {
      const forget = this.listen(message => {
        if (message.kind !== kind) return
        forget()
        resolve(message as Extract<FromMix, { kind: Kind }>)
      })
    })
  }

  listenToCapture(listener: (flaw: CaptureFlaw) => void): () => void {
    this.captureListeners.add(listener)
    return () => this.captureListeners.delete(listener)
  }

  listenToDevices(listener: (event: DeviceEvent) => void): () => void {
    this.deviceListeners.add(listener)
    return () => this.deviceListeners.delete(listener)
  }

  setPlan(plan: MixPlan): void {
    this.command(planMessage(plan, this.lastPlan))
    this.lastPlan = plan
  }

  setClick(click: Omit<Extract<ToMix, { kind: 'click' }>, 'kind'>): void {
    this.command((this.lastClick = { kind: 'click', ...click }))
  }

  setMonitor(settings: MonitorSettings): void {
    this.monitor.port.postMessage(settings)
  }

  /** @returns false if no sound may start yet: nothing plays then, now or later. */
  async play(command: Omit<PlayCommand, 'kind'>): Promise<boolean> {
    if (!(await this.wake())) return false
    this.command({ kind: 'play', ...command })
    return true
  }

  /** Plays a short sound beside the mix, at once, to hear something by; it is in no recording and no delivery. Stops what played so before. */
  async playBeside(sound: Mono | null, looping = false): Promise<void> {
    this.beside?.stop()
    this.beside = null
    if (!sound || !(await this.wake())) return
    const buffer = this.context.createBuffer(1, sound.length, SAMPLE_RATE_HZ)
    buffer.copyToChannel(sound, 0)
    const source = new AudioBufferSourceNode(this.context, { buffer, loop: looping })
    source.connect(this.output)
    source.start()
    this.beside = source
  }

  stop(): void {
    this.command({ kind: 'stop' })
  }

  /** How loud a channel, a bus or the output has lately been, linear; 0 for what does not sound. */
  peakOf(meter: MeterId): number {
    const place = this.lastPlan?.meters.indexOf(meter) ?? -1
    return place < 0 ? 0 : this.transport[TRANSPORT.peaks + place]!
  }

  /** The audio clock. */
  get clockSeconds(): number {
    return this.context.currentTime
  }

  get isPlaying(): boolean {
    return this.transport[TRANSPORT.playing] === 1
  }

  /** The song frame that reaches the ears now. */
  get audibleFrame(): number {
    if (!this.isPlaying) return this.transport[TRANSPORT.songFrame]!
    const contextFrame = (this.context.currentTime - (this.context.outputLatency || 0)) * SAMPLE_RATE_HZ
    const anchor = this.transport[TRANSPORT.anchorContextFrame]!
    return songFrameAt(this.transport, Math.max(anchor, contextFrame))
  }

  /** Sends a sound out at an exact frame of the audio clock, soon. @returns that frame. */
  sendProbe(samples: Mono): number {
    const soon = this.context.currentTime + (this.context.outputLatency || 0) + PROBE_LEAD_SECONDS
    const atFrame = Math.ceil((soon * SAMPLE_RATE_HZ) / BLOCK_FRAMES) * BLOCK_FRAMES
    this.output.port.postMessage({ samples, atFrame } satisfies ToOutput)
    return atFrame
  }

  /** The browser's microphones or outputs by name; names are empty until a microphone was allowed. */
  static async listDevices(kind: 'audioinput' | 'audiooutput'): Promise<{ deviceId: string; label: string }[]> {
    const devices = (await navigator.mediaDevices?.enumerateDevices()) ?? []
    return devices.filter(device => device.kind === kind).map(({ deviceId, label }) => ({ deviceId, label }))
  }

  /** Whether the browser lets a page choose where its sound goes. */
  static get canChooseOutput(): boolean {
    return 'setSinkId' in AudioContext.prototype
  }

  /** @returns false if the output is not there (any more). */
  async chooseOutput(deviceId: string | null): Promise<boolean> {
    const context = this.context as AudioContext & { setSinkId?: (id: string) => Promise<void> }
    this.reopened()
    try {
      await context.setSinkId?.(deviceId ?? '')
      return true
    } catch {
      return false
    }
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
      return {
        kind: 'failed',
        reason:
          name === 'NotAllowedError'
            ? 'not-allowed'
            : name === 'NotFoundError' || name === 'OverconstrainedError'
              ? 'not-found'
              : name === 'NotReadableError'
                ? 'in-use'
                : 'unavailable',
      }
    }
    const track = this.stream.getAudioTracks()[0]!
    track.onended = () => {
      this.reopened()
      this.tellDevices({ kind: 'input-gone' })
    }
    const settings = track.getSettings()
    this.openSource(this.context.createMediaStreamSource(this.stream))
    const processing = [
      settings.echoCancellation && 'echo cancellation',
      settings.noiseSuppression && 'noise suppression',
      settings.autoGainControl && 'automatic gain',
    ].filter(entry => typeof entry === 'string')
    return { kind: 'open', label: track.label, channels: settings.channelCount ?? 1, processing }
  }

  openPracticeSinger(): InputResult {
    this.closeInput()
    this.openSource(this.simulated)
    return { kind: 'open', label: 'Practice singer', channels: 1, processing: [] }
  }

  private openSource(source: AudioNode): void {
    this.source = source
    source.connect(this.captureNode)
    source.connect(this.monitor)
    this.reopened()
  }

  closeInput(): void {
    this.source?.disconnect()
    this.source = null
    for (const track of this.stream?.getTracks() ?? []) {
      track.onended = null
      track.stop()
    }
    this.stream = null
  }

  private reopened(): void {
    this.opening++
    this.knownRoundTripFrames = null
  }

  setChannel(channel: number): void {
    Atomics.store(this.capture.control, CAPTURE.channel, channel)
  }

  /** How the simulated interface behaves: its round trip, its noise, how much the headphones leak. */
  setInterface(settings: InterfaceSettings): void {
    if (settings.roundTripFrames !== this.interfaceSettings.roundTripFrames) this.reopened()
    this.interfaceSettings = settings
    this.simulated.port.postMessage({ kind: 'settings', settings } satisfies ToInterface)
  }

  /** Gives the practice singer what to sing. The samples are transferred. */
  setVoice(voice: Mono, originFrame: number, passFrames: number): void {
    this.simulated.port.postMessage({ kind: 'voice', voice, originFrame, passFrames } satisfies ToInterface, [voice.buffer])
  }

  hushSinger(): void {
    this.simulated.port.postMessage({ kind: 'quiet' } satisfies ToInterface)
  }

  /** True while an opened microphone still delivers. */
  get inputIsLive(): boolean {
    return this.source === this.simulated || this.stream?.getAudioTracks()[0]?.readyState === 'live'
  }

  get inputIsSimulated(): boolean {
    return this.source === this.simulated
  }

  /** From what the singer hears to what is captured of it, as far as it is known. */
  get roundTripFrames(): number {
    return this.knownRoundTripFrames ?? (this.inputIsSimulated ? this.interfaceSettings.roundTripFrames : this.reportedRoundTripFrames)
  }

  /** What the browser says of its own delays; wrong by up to 60 ms on some devices. */
  private get reportedRoundTripFrames(): number {
    const input = this.stream?.getAudioTracks()[0]?.getSettings() as { latency?: number } | undefined
    const seconds = (this.context.baseLatency || 0) + (this.context.outputLatency || 0) + (input?.latency ?? 0)
    return Math.round(seconds * SAMPLE_RATE_HZ)
  }

  private tellDevices(event: DeviceEvent): void {
    this.deviceListeners.forEach(listener => listener(event))
  }

  private command(message: ToMix): void {
    this.feeder.postMessage(message satisfies ToFeeder)
  }
}

const START_MILLISECONDS = 15_000
const WAKE_MILLISECONDS = 1_000
const MOST_FEEDER_DEATHS = 5

/** From asking for a probe to its first frame. */
const PROBE_LEAD_SECONDS = 0.12
