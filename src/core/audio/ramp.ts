/** Levels that move in a straight line over a block. */

/** Adds a block at a level that goes from `gain` at its start to `endGain` at its end. */
export function addRamp(into: Float32Array, from: Float32Array, gain: number, endGain: number): void {
  const step = (endGain - gain) / into.length
  if (step === 0) for (let i = 0; i < into.length; i++) into[i] += gain * from[i]
  else for (let i = 0; i < into.length; i++) into[i] += (gain + step * i) * from[i]
}
