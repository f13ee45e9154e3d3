/** The practice singer's worklet: sings in time with the transport, heard through a simulated interface with a round trip of its own. */
import { BLOCK_FRAMES } from '../core/audio/frames'
import type { ToSinger } from './messages'
import { songFrameAt, TRANSPORT } from './shared-state'

class SingerProcessor extends AudioWorkletProcessor {
  private readonly transport: Float64Array
  private readonly roundTripFrames: number
  private voice: Float32Array | null = null
  private originFrame = 0
  /** The voice holds several passes of this length, one after the other; each turn of the loop sings the next. */
  private passFrames = 0

  constructor(options: { processorOptions: { transport: Float64Array; roundTripFrames: number } }) {
    super()
    this.transport = options.processorOptions.transport
    this.roundTripFrames = options.processorOptions.roundTripFrames
    this.port.onmessage = (event: MessageEvent<ToSinger>) => {
      this.voice = event.data.kind === 'voice' ? event.data.voice : null
      if (event.data.kind !== 'voice') return
      this.originFrame = event.data.originFrame
      this.passFrames = event.data.passFrames
    }
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const output = outputs[0]![0]
    if (!output || !this.voice || this.transport[TRANSPORT.playing] !== 1) return true
    const { transport, voice } = this
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      // What is sung now was heard the round trip ago.
      const heardAt = currentFrame + i - this.roundTripFrames
      if (heardAt < transport[TRANSPORT.anchorContextFrame]!) continue
      const within = songFrameAt(transport, heardAt) - this.originFrame
      if (within < 0 || within >= this.passFrames) continue
      output[i] = voice[this.turnAt(heardAt) * this.passFrames + within] ?? 0
    }
    return true
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

registerProcessor('plush-singer', SingerProcessor)
