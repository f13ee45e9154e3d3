/** The simulated interface's input: the practice singer in time with the transport, what leaks from the headphones, the room. */
import { BLOCK_FRAMES } from '../core/audio/frames'
import { BlockClock } from './block-clock'
import type { ToInterface } from './messages'
import { songFrameAt, TRANSPORT } from './shared-state'
import { simulated } from './simulated'

class InterfaceProcessor extends AudioWorkletProcessor {
  private readonly transport: Float64Array
  private readonly clock = new BlockClock()
  private voice: Float32Array | null = null
  private originFrame = 0
  /** The voice holds several passes of this length, one after the other; each turn of the loop sings the next. */
  private passFrames = 0

  constructor(options: { processorOptions: { transport: Float64Array } }) {
    super()
    this.transport = options.processorOptions.transport
    this.port.onmessage = (event: MessageEvent<ToInterface>) => {
      const message = event.data
      if (message.kind === 'settings') simulated.set(message.settings)
      else if (message.kind === 'quiet') this.voice = null
      else {
        this.voice = message.voice
        this.originFrame = message.originFrame
        this.passFrames = message.passFrames
      }
    }
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    this.clock.tick(currentFrame)
    const output = outputs[0]![0]
    if (!output) return true
    simulated.addInto(output, this.clock.frame)
    if (this.voice && this.transport[TRANSPORT.playing] === 1) this.singInto(output, this.voice)
    return true
  }

  private singInto(output: Float32Array, voice: Float32Array): void {
    const { transport } = this
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      // What is sung now was heard the round trip ago.
      const audibleAt = this.clock.frame + i - simulated.roundTripFrames
      if (audibleAt < transport[TRANSPORT.anchorContextFrame]!) continue
      const within = songFrameAt(transport, audibleAt) - this.originFrame
      if (within < 0 || within >= this.passFrames) continue
      output[i] = output[i]! + (voice[this.turnAt(audibleAt) * this.passFrames + within] ?? 0)
    }
  }

  private turnAt(contextFrame: number): number {
    const { transport, voice } = this
    const loopFrames = transport[TRANSPORT.loopEndFrame]! - transport[TRANSPORT.loopStartFrame]!
    if (loopFrames <= 0) return 0
    const unwrapped = transport[TRANSPORT.anchorSongFrame]! + contextFrame - transport[TRANSPORT.anchorContextFrame]!
    const turn = Math.max(0, Math.floor((unwrapped - transport[TRANSPORT.loopStartFrame]!) / loopFrames))
    return turn % Math.max(1, Math.floor(voice!.length / this.passFrames))
  }
}

registerProcessor('plush-interface', InterfaceProcessor)
