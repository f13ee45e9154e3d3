/** The monitor worklet: the singer's own voice back to the headphones; no part of any take. */
import { BLOCK_FRAMES } from '../core/audio/frames'
import { MonitorChain, type MonitorSettings } from '../core/monitor/monitor-chain'
import type { FromMonitor } from './messages'
import { CAPTURE, type CaptureState } from './shared-state'

const SILENCE = new Float32Array(BLOCK_FRAMES)

class MonitorProcessor extends AudioWorkletProcessor {
  private readonly control: Int32Array
  private readonly chain = new MonitorChain()

  constructor(options: { processorOptions: Pick<CaptureState, 'control'> }) {
    super()
    this.control = options.processorOptions.control
    this.port.onmessage = (event: MessageEvent<MonitorSettings>) => this.chain.set(event.data)
  }

  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0]!
    if (!left || !right) return true
    const input = inputs[0]!
    const voice = input[Atomics.load(this.control, CAPTURE.channel)] ?? input[0] ?? SILENCE
    if (this.chain.process(voice, left, right)) this.port.postMessage({ kind: 'howl' } satisfies FromMonitor)
    return true
  }
}

registerProcessor('plush-monitor', MonitorProcessor)
