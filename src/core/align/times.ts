/** What of a voice is moved to where, so that its syllables come to sound with the lead's. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { EditId, TimeEdit } from '../song/edit-schema'
import type { LedPath } from '../song/together-schema'

/** Round a place so much is moved as it is: an attack stays sharp. */
const SHARP_FRAMES = { before: 576, after: 1_440 }
/** Nearer than this two places say the same; round what the singer moved by hand, the hand is right. */
const LEAST_APART_FRAMES = 0.06 * SAMPLE_RATE_HZ
const BESIDE_HAND_FRAMES = 0.12 * SAMPLE_RATE_HZ
/** A place so near to the end of a phrase is its end. */
const END_FRAMES = 0.12 * SAMPLE_RATE_HZ
/** Between two places a voice becomes no faster and no slower than this. */
const MOST_STRETCH = 2

/** What else moves a voice, or holds it; in frames of it. */
interface Beside {
  /** What the singer moved by hand, in order. */
  own?: readonly TimeEdit[]
  /** Where phrases end that are to end with the lead's. */
  ends?: readonly number[]
  /** Where it stays as it was sung, unless a hand moved it near by. */
  still?: readonly number[]
}

/**
 * @param places Frames of the voice, and by how much later the lead has each.
 * @param tightness 0: as sung; 1: each place where the lead has it.
 * @returns in order, and so that what is moved stays in order.
 */
export function timesOf(places: LedPath['places'], tightness: number, { own = [], ends = [], still = [] }: Beside = {}): readonly TimeEdit[] {
  if ((tightness === 0 && ends.length === 0) || places.length === 0) return own
  const held = still.filter(frame => own.every(edit => Math.abs(edit.frame - frame) >= BESIDE_HAND_FRAMES))
  const fixed = [...own, ...held.map((frame): TimeEdit => ({ id: 'still' as EditId, frame, laterFrames: 0 }))]
  const led: [frame: number, later: number][] = []
  for (const [frame, later] of [...places].sort((a, b) => a[0] - b[0])) {
    const last = led.at(-1)
    const laterNow = Math.round(shareAt(frame, tightness, ends) * later)
    const isNearFixed = fixed.some(edit => Math.abs(edit.frame - frame) < BESIDE_HAND_FRAMES)
    const apart = last ? frame - last[0] : Infinity
    const isStretched = last !== undefined && !inStretch((apart + laterNow - last[1]) / apart)
    if (!isNearFixed && apart >= LEAST_APART_FRAMES && !isStretched) led.push([frame, laterNow])
  }
  const sharp = led.flatMap(([frame, laterFrames], i): TimeEdit[] => {
    const room = (neighbour: number | undefined) => (neighbour === undefined ? Infinity : Math.abs(neighbour - frame) / 3)
    const before = Math.floor(Math.min(SHARP_FRAMES.before, room(led[i - 1]?.[0]), frame))
    const after = Math.floor(Math.min(SHARP_FRAMES.after, room(led[i + 1]?.[0])))
    const at = (place: number): TimeEdit => ({ id: 'led' as EditId, frame: place, laterFrames })
    return before > 0 ? [at(frame - before), at(frame + after)] : [at(frame + after)]
  })
  const besideFixed = sharp.filter(time => fixed.every(other => staysInOrder(time, other)))
  return inOrder([...fixed, ...besideFixed].sort((a, b) => a.frame - b.frame))
}

/** How much of the way to the lead a place goes. */
export function shareAt(frame: number, tightness: number, ends: readonly number[]): number {
  return ends.some(end => Math.abs(end - frame) <= END_FRAMES) ? 1 : tightness
}

function inStretch(ratio: number): boolean {
  return ratio >= 1 / MOST_STRETCH && ratio <= MOST_STRETCH
}

function staysInOrder(a: TimeEdit, b: TimeEdit): boolean {
  return (a.frame - b.frame) * (a.frame + a.laterFrames - b.frame - b.laterFrames) > 0
}

/** A place that would come to sound before the one before it is left out. */
function inOrder(times: readonly TimeEdit[]): TimeEdit[] {
  const kept: TimeEdit[] = []
  for (const time of times) {
    const last = kept.at(-1)
    if (!last || time.frame + time.laterFrames > last.frame + last.laterFrames) kept.push(time)
  }
  return kept
}
