/** What no sound can be: values that are no numbers, or beyond any level. */

/** 60 dB above full scale: more than any recording holds, and little enough for sums of it to stay numbers. */
const MOST_LEVEL = 1_000

/** Puts silence in their place. @returns how many samples were silenced. */
export function silenceUnsound(plane: Float32Array): number {
  let count = 0
  for (let i = 0; i < plane.length; i++) {
    // False for NaN as well.
    if (Math.abs(plane[i]) <= MOST_LEVEL) continue
    plane[i] = 0
    count++
  }
  return count
}
