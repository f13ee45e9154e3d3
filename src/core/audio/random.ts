/** A small seeded random generator, so that everything generated is the same bytes every time. */

/**
 * Uniform numbers in [0, 1) from a 32-bit seed (mulberry32).
 * @see https://github.com/bryc/code/blob/master/jshash/PRNGs.md
 */
export function makeRandom(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
}

/** A normally distributed number, mean 0, deviation 1 (Box and Muller 1958). */
export function gaussian(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
}
