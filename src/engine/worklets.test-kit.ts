/** A small stand-in for the scope of an audio worklet, in which the processors run with the clock turned by hand. */
import type { Planar } from '../core/audio/frames'
import type { Grid } from '../core/beat/grid'
import { packPlan } from '../core/mix/packed-plan'
import type { MixPlan } from '../core/mix/plan'
import type { AssetId } from '../core/song/schema'
import type { FromFeeder, FromMix, PlayCommand } from './messages'
import { makeTransportState } from './shared-state'

export interface Processor {
  port: FakePort
  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean
}
export class FakePort {
  onmessage: ((event: { data: unknown }) => void) | null = null
  readonly told: unknown[] = []
  postMessage(message: unknown): void {
    this.told.push(message)
  }
}
const registered = new Map<string, new (options: object) => Processor>()
export const scope = globalThis as unknown as Record<string, unknown>
scope.AudioWorkletProcessor = class {
  readonly port = new FakePort()
}
scope.registerProcessor = (name: string, processor: new (options: object) => Processor) => registered.set(name, processor)
scope.currentFrame = 0

export const make = (name: string, processorOptions: object) => new (registered.get(name)!)({ processorOptions })
export const clock = {
  set: (frame: number) => (scope.currentFrame = frame),
  next: () => (scope.currentFrame = (scope.currentFrame as number) + 128),
}

/** A mix worklet that plays, with all the sounds of its plan at hand. */
export function rollingMix(
  command: Partial<PlayCommand>,
  plan: MixPlan,
  sounds: Record<string, Planar>,
  grid: Grid = { tempoBpm: 120, barOneFrame: 0, beatsPerBar: 4, beatUnit: 'quarter', map: null },
) {
  const transport = makeTransportState()
  const processor = make('plush-mix', { transport })
  const feeder = new FakePort()
  processor.port.onmessage!({ data: { feeder } })
  const send = (message: FromFeeder) => feeder.onmessage!({ data: message })
  for (const [assetId, planes] of Object.entries(sounds)) {
    const { length } = planes[0]!
    for (let index = 0; index * 12_000 < length; index++)
      send({
        kind: 'chunk',
        assetId: assetId as AssetId,
        frames: length,
        index,
        planes: planes.map(plane => plane.slice(index * 12_000, (index + 1) * 12_000)),
      })
  }
  send({ kind: 'click', grid, gain: 0, countInGain: 0.5, accentGain: 1 })
  send({ kind: 'plan', plan: packPlan(plan) })
  send({ kind: 'play', fromFrame: 0, loop: null, silentBeforeFrame: null, stopAtFrame: null, ...command })
  const run = (frames: number) => {
    const left = new Float32Array(frames)
    for (let at = 0; at < frames; at += 128) {
      const block = [new Float32Array(128), new Float32Array(128)]
      processor.process([], [block])
      left.set(block[0]!.subarray(0, Math.min(128, frames - at)), at)
      clock.next()
    }
    return left
  }
  return { run, send, transport, told: processor.port.told as FromMix[] }
}
