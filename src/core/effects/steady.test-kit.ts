/** Steady levels, for tests of effects that follow how loud a sound is. */
import { decibelsToGain } from '../audio/decibels'
import type { Effect } from './effect'

export const steady = (dbfs: number, seconds: number) => new Array<number>(Math.round(seconds * 48_000)).fill(dbfs)

/** The gain in decibels, frame by frame, that a level which is the same on every sample gets. */
export function gainsThrough<S>(effect: Effect<S>, levelsDbfs: readonly number[]): Float64Array {
  const input = Float32Array.from(levelsDbfs, decibelsToGain)
  const output = input.slice()
  for (let at = 0; at < input.length; at += 128) effect.process(output.subarray(at, at + 128), input.slice(at, at + 128))
  return Float64Array.from(output, (sample, i) => 20 * Math.log10(sample / input[i]))
}
