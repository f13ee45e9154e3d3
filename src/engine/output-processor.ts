/** The output worklet: the last thing before the ears. Nothing leaves above full scale; probes for the round trip are put in at an exact frame. */
import { BlockClock } from './block-clock'
import type { ToOutput } from './messages'
import { simulated } from './simulated'

class OutputProcessor extends AudioWorkletProcessor {
  private readonly clock = new BlockClock()
  private probe: Float32Array | null = null
  private probeAt = 0

  constructor() {
    super()
    this.port.onmessage = (event: MessageEvent<ToOutput>) => {
      this.probe = event.data.samples
      this.probeAt = event.data.atFrame
    }
  }

  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    this.clock.tick(currentFrame)
    const { frame } = this.clock
    const input = inputs[0]!
    const [left, right] = outputs[0]!
    if (!left || !right) return true
    const { probe, probeAt } = this
    for (let i = 0; i < left.length; i++) {
      const sent = probe ? (probe[frame + i - probeAt] ?? 0) : 0
      left[i] = Math.max(-1, Math.min(1, (input[0]?.[i] ?? 0) + sent))
      right[i] = Math.max(-1, Math.min(1, (input[1]?.[i] ?? input[0]?.[i] ?? 0) + sent))
    }
    if (probe && frame > probeAt + probe.length) this.probe = null
    simulated.send(frame, left, right)
    return true
  }
}

registerProcessor('plush-output', OutputProcessor)
