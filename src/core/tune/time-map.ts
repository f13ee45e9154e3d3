/** Where what was sung comes to sound: places that are moved, and straight lines between them. */
import { MOST_LATER_FRAMES, type TimeEdit } from '../song/edit-schema'

/** What lies further than this from every moved place stays where it is, 0.5 s. */
export const TIME_REACH_FRAMES = 2 * MOST_LATER_FRAMES

/** Frames of the sound, and of what becomes of it; both rise. Outside of all places nothing moves. */
export interface TimeMap {
  from: readonly number[]
  to: readonly number[]
}

export function timeMapOf(edits: readonly TimeEdit[]): TimeMap {
  const places: [frame: number, laterFrames: number][] = []
  edits.forEach(({ frame, laterFrames }, i) => {
    const before = edits[i - 1]
    const after = edits[i + 1]
    if (!before || frame - before.frame > 2 * TIME_REACH_FRAMES) places.push([frame - TIME_REACH_FRAMES, 0])
    places.push([frame, laterFrames])
    if (!after || after.frame - frame > 2 * TIME_REACH_FRAMES) places.push([frame + TIME_REACH_FRAMES, 0])
  })
  return { from: places.map(([frame]) => frame), to: places.map(([frame, later]) => frame + later) }
}

/** Where a frame of the sound comes to sound. */
export function soundingAt({ from, to }: TimeMap, frame: number): number {
  return along(from, to, frame)
}

/** Which frame of the sound sounds there. */
export function sungAt({ from, to }: TimeMap, frame: number): number {
  return along(to, from, frame)
}

function along(from: readonly number[], to: readonly number[], at: number): number {
  const last = from.length - 1
  if (last < 0 || at <= from[0] || at >= from[last]) return at
  let low = 0
  let high = last
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (from[middle] <= at) low = middle
    else high = middle
  }
  const moved = to[low] - from[low]
  // Where both ends are moved alike nothing is stretched, and whole frames stay whole.
  if (to[high] - from[high] === moved) return at + moved
  return to[low] + ((at - from[low]) / (from[high] - from[low])) * (to[high] - to[low])
}
