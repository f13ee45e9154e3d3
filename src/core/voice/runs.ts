/** Runs of neighbouring hops for which something holds. */

export interface Run {
  from: number
  /** The first hop after it. */
  to: number
}

export function runsOf(length: number, holds: (i: number) => boolean): Run[] {
  const runs: Run[] = []
  for (let i = 0; i < length; i++) {
    if (!holds(i)) continue
    const last = runs.at(-1)
    if (last && last.to === i) last.to = i + 1
    else runs.push({ from: i, to: i + 1 })
  }
  return runs
}

/** The most of a stretch of values that are not negative. */
export function maxOf(values: Float32Array, from: number, to: number): number {
  let most = 0
  for (let i = from; i < to; i++) most = Math.max(most, values[i])
  return most
}
