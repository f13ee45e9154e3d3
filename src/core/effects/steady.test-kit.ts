/** Steady levels, for tests of effects that follow how loud a sound is. */
import { decibelsToGain } from '../audio/decibels'
import type { Effect } from './effect'

export const steady = (dbfs: number, seconds: number) => new Array<number>(Math.round(seconds * 48_000)).fill(dbfs)

/** The gain in decibels, frame by frame, that a level which is the same on every sample gets. */
export function gainsThrough<S>(effect: Effect<S>, levelsDbfs: readonly number[]): Float64Array {
  const input = Float32Array.from(levelsDbfs, decibelsToGain)
  const output = input.slice()
  inBlocks(effect, output, input.slice())
  return Float64Array.from(output, (sample, i) => 20 * Math.log10(sample / input[i]))
}

/** In place, as effects are run. */
export function inBlocks<S>(effect: Effect<S>, left: Float32Array, right: Float32Array): void {
  for (let at = 0; at < left.length; at += 128) effect.process(left.subarray(at, at + 128), right.subarray(at, at + 128))
}
