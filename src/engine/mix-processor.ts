/** The mix worklet: the renderer, the transport's clock, the click. */
import { BLOCK_FRAMES } from '../core/audio/frames'
import { addClickInto } from '../core/beat/click'
import type { Grid } from '../core/beat/grid'
import { ChunkWindow } from '../core/mix/chunk-window'
import { MixRenderer } from '../core/mix/renderer'
import { BlockClock } from './block-clock'
import type { FromFeeder, FromMix, PlayCommand } from './messages'
import { TRANSPORT, wrapIntoLoop } from './shared-state'

/** Starts and stops are faded over this many frames, and the beat over as many after a count-in. */
const FADE_FRAMES = 256
const LOUDNESS_BLOCKS = 38
const METER_DECAY = 0.985

class MixProcessor extends AudioWorkletProcessor {
  private readonly transport: Float64Array
  private readonly window = new ChunkWindow()
  private renderer: MixRenderer | null = null
  private command: PlayCommand | null = null
  /** Begins as soon as what plays now has faded out. */
  private next: PlayCommand | null = null
  /** Song frame of the next block, loops not taken in. */
  private frame = 0
  /** Frames since the start, for the fade in; frames left, for the fade out. */
  private sinceStart = 0
  private readonly clock = new BlockClock()
  private untilStop = Infinity
  private grid: Grid | null = null
  private clickGain = 0
  private countInGain = 0
  private accentGain = 1
  private readonly left = new Float32Array(BLOCK_FRAMES)
  private readonly right = new Float32Array(BLOCK_FRAMES)

  constructor(options: { processorOptions: { transport: Float64Array } }) {
    super()
    this.transport = options.processorOptions.transport
    this.port.onmessage = (event: MessageEvent<{ feeder: MessagePort }>) => {
      event.data.feeder.onmessage = (message: MessageEvent<FromFeeder>) => this.receive(message.data)
    }
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    this.clock.tick(currentFrame)
    const [outLeft, outRight] = outputs[0]!
    if (!outLeft || !outRight) return true
    if (this.command && this.renderer) this.play(this.renderer, this.command, outLeft, outRight)
    this.decayMeters()
    return true
  }

  private play(renderer: MixRenderer, command: PlayCommand, outLeft: Float32Array, outRight: Float32Array): void {
    if (this.sinceStart === 0) this.anchor(command)
    // Blocks that the browser passed over are passed over in the song too: the clock and the song stay together.
    else this.frame += this.clock.passedOverFrames
    const { transport, frame } = this
    const loopStart = command.loop?.startFrame ?? 0
    const loopEnd = command.loop?.endFrame ?? 0
    const at = wrapIntoLoop(frame, loopStart, loopEnd)
    const silent = command.silentBeforeFrame !== null && frame < command.silentBeforeFrame
    this.pullBlock(renderer, frame + BLOCK_FRAMES, loopStart, loopEnd)
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      let gain = 1
      if (this.sinceStart + i < FADE_FRAMES) gain = (this.sinceStart + i) / FADE_FRAMES
      if (silent && frame + i < command.silentBeforeFrame!) gain = 0
      if (command.silentBeforeFrame !== null && frame + i >= command.silentBeforeFrame)
        gain *= Math.min(1, (frame + i - command.silentBeforeFrame) / FADE_FRAMES)
      outLeft[i] = this.left[i]! * gain
      outRight[i] = this.right[i]! * gain
    }
    const clickGain = silent ? Math.max(this.clickGain, this.countInGain) : this.clickGain
    if (this.grid && clickGain > 0) this.addClick(outLeft, outRight, this.grid, at, loopStart, loopEnd, clickGain)
    if (this.untilStop < Infinity) {
      for (let i = 0; i < BLOCK_FRAMES; i++) {
        const gain = Math.max(0, Math.min(1, (this.untilStop - i) / FADE_FRAMES))
        outLeft[i] = outLeft[i]! * gain
        outRight[i] = outRight[i]! * gain
      }
      this.untilStop -= BLOCK_FRAMES
    }
    this.frame += BLOCK_FRAMES
    this.sinceStart += BLOCK_FRAMES
    if (command.stopAtFrame !== null && this.frame >= command.stopAtFrame && this.untilStop === Infinity) this.untilStop = FADE_FRAMES
    this.writeMeters(renderer)
    const next = wrapIntoLoop(this.frame, loopStart, loopEnd)
    transport[TRANSPORT.songFrame] = next
    if (this.untilStop > 0) return
    if (this.next) this.start(this.next, true)
    else this.halt(next)
  }

  /** The renderer takes in the block that sounds one block later; a loop may turn inside it. */
  private pullBlock(renderer: MixRenderer, frame: number, loopStart: number, loopEnd: number): void {
    const at = wrapIntoLoop(frame, loopStart, loopEnd)
    const split = loopEnd > loopStart ? Math.min(BLOCK_FRAMES, loopEnd - at) : BLOCK_FRAMES
    renderer.pull(at, split > 0 ? split : BLOCK_FRAMES, loopStart, this.left, this.right, loopEnd > loopStart ? loopEnd - at : Infinity)
  }

  private addClick(left: Float32Array, right: Float32Array, grid: Grid, at: number, loopStart: number, loopEnd: number, gain: number): void {
    const split = loopEnd > loopStart ? Math.min(BLOCK_FRAMES, loopEnd - at) : BLOCK_FRAMES
    if (split >= BLOCK_FRAMES || split <= 0) addClickInto(left, right, grid, at, gain, this.accentGain)
    else {
      addClickInto(left.subarray(0, split), right.subarray(0, split), grid, at, gain, this.accentGain)
      addClickInto(left.subarray(split), right.subarray(split), grid, loopStart, gain, this.accentGain)
    }
  }

  private receive(message: FromFeeder): void {
    switch (message.kind) {
      case 'chunk':
        this.window.put(message.assetId, message.frames, message.index, message.planes)
        break
      case 'drop':
        this.window.drop(message.assetId, message.index)
        break
      case 'plan':
        if (this.renderer) this.renderer.setPlan(message.plan)
        else {
          this.renderer = new MixRenderer(message.plan, this.window)
          this.renderer.listen()
        }
        break
      case 'levels':
        this.renderer?.setLevels(message.levels)
        break
      case 'play':
        this.begin(message)
        break
      case 'stop':
        this.next = null
        if (this.command) this.untilStop = Math.min(this.untilStop, FADE_FRAMES)
        break
      case 'click':
        this.grid = message.grid
        this.clickGain = message.gain
        this.countInGain = message.countInGain
        this.accentGain = message.accentGain
        break
    }
  }

  private begin(command: PlayCommand): void {
    if (this.command && this.sinceStart > 0) {
      this.next = command
      this.untilStop = Math.min(this.untilStop, FADE_FRAMES)
      return
    }
    this.start(command, false)
  }

  private start(command: PlayCommand, goingOn: boolean): void {
    this.next = null
    this.command = command
    this.frame = command.fromFrame
    this.sinceStart = 0
    this.untilStop = Infinity
    this.renderer?.seek(command.fromFrame, { goingOn })
  }

  /** In the first block that sounds: only there the clock is this block's. */
  private anchor(command: PlayCommand): void {
    const { transport } = this
    transport[TRANSPORT.anchorContextFrame] = this.clock.frame
    transport[TRANSPORT.anchorSongFrame] = command.fromFrame
    transport[TRANSPORT.loopStartFrame] = command.loop?.startFrame ?? 0
    transport[TRANSPORT.loopEndFrame] = command.loop?.endFrame ?? 0
    transport[TRANSPORT.songFrame] = command.fromFrame
    transport[TRANSPORT.playing] = 1
    this.tell({ kind: 'started', contextFrame: this.clock.frame, songFrame: command.fromFrame })
  }

  private halt(songFrame: number): void {
    this.command = null
    this.transport[TRANSPORT.playing] = 0
    this.tell({ kind: 'stopped', songFrame })
  }

  private tell(message: FromMix): void {
    this.port.postMessage(message)
  }

  private writeMeters(renderer: MixRenderer): void {
    const { transport } = this
    const { peaks } = renderer
    for (let i = 0; i < peaks.length; i++) if (peaks[i]! > transport[TRANSPORT.peaks + i]!) transport[TRANSPORT.peaks + i] = peaks[i]!
    transport[TRANSPORT.missedBlocks] = renderer.missedBlocks
    transport[TRANSPORT.compressorReductionDecibels] = renderer.compressorReductionDecibels
    transport[TRANSPORT.ceilingReductionDecibels] = renderer.ceilingReductionDecibels
    this.writeLoudness(renderer)
  }

  /** Every tenth of a second: that is as often as it can be read. */
  private writeLoudness({ loudness }: MixRenderer): void {
    if (!loudness || this.sinceStart % (LOUDNESS_BLOCKS * BLOCK_FRAMES) !== 0) return
    const { transport } = this
    const { voices, beat, output } = loudness
    transport[TRANSPORT.voicesShortLufs] = voices.shortTermLufs
    transport[TRANSPORT.beatShortLufs] = beat.shortTermLufs
    transport[TRANSPORT.outputMomentaryLufs] = output.momentaryLufs
    transport[TRANSPORT.outputShortLufs] = output.shortTermLufs
    transport[TRANSPORT.outputIntegratedLufs] = output.integratedLufs
    transport[TRANSPORT.monoLossDecibels] = output.monoLossDecibels
  }

  private decayMeters(): void {
    const { transport } = this
    for (let place = TRANSPORT.peaks; place < transport.length; place++) {
      const value = transport[place]! * METER_DECAY
      transport[place] = value < 1e-6 ? 0 : value
    }
  }
}

registerProcessor('plush-mix', MixProcessor)
