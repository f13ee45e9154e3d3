/** How a take's time is moved where its layer follows the lead. */
import { ledLines, pathOf, type LedLine } from '../align/led-paths'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { EditId, TimeEdit } from '../song/edit-schema'
import type { Layer, Song, Take } from '../song/schema'
import type { LedPath } from '../song/together-schema'

/** Asked for with every take of a plan. */
const known = new WeakMap<Song, LedLine[]>()

/** The paths that move a take in a layer; the same objects while nothing of them changes. */
export function pathsOfTake(song: Song, layer: Layer, take: Take): LedPath[] {
  if (!layer.together || layer.paths.length === 0) return []
  const lines = known.get(song) ?? ledLines(song)
  known.set(song, lines)
  return lines.flatMap(line => (line.layerId === layer.id && line.takeId === take.id ? [pathOf(layer, line)] : [])).filter(path => path !== null)
}

/** Round a place so much is moved as it is: an attack stays sharp. */
const SHARP_FRAMES = { before: 576, after: 1_440 }
/** Nearer than this two places say the same; round what the singer moved by hand, the hand is right. */
const LEAST_APART_FRAMES = 0.06 * SAMPLE_RATE_HZ
const BESIDE_HAND_FRAMES = 0.12 * SAMPLE_RATE_HZ
/** Between two places a voice becomes no faster and no slower than this. */
const MOST_STRETCH = 2

/** @param own What the singer moved by hand, in order. @returns in order, and so that what is moved stays in order. */
export function ledTimes(paths: readonly LedPath[], tightness: number, own: readonly TimeEdit[]): readonly TimeEdit[] {
  if (tightness === 0 || paths.length === 0) return own
  const led: [frame: number, later: number][] = []
  for (const [frame, later] of paths.flatMap(({ places }) => places).sort((a, b) => a[0] - b[0])) {
    const last = led.at(-1)
    const laterNow = Math.round(tightness * later)
    const isNearHand = own.some(edit => Math.abs(edit.frame - frame) < BESIDE_HAND_FRAMES)
    const apart = last ? frame - last[0] : Infinity
    const isStretched = last !== undefined && !inStretch((apart + laterNow - last[1]) / apart)
    if (!isNearHand && apart >= LEAST_APART_FRAMES && !isStretched) led.push([frame, laterNow])
  }
  const sharp = led.flatMap(([frame, laterFrames], i): TimeEdit[] => {
    const room = (neighbour: number | undefined) => (neighbour === undefined ? Infinity : Math.abs(neighbour - frame) / 3)
    const before = Math.floor(Math.min(SHARP_FRAMES.before, room(led[i - 1]?.[0]), frame))
    const after = Math.floor(Math.min(SHARP_FRAMES.after, room(led[i + 1]?.[0])))
    const at = (place: number): TimeEdit => ({ id: 'led' as EditId, frame: place, laterFrames })
    return before > 0 ? [at(frame - before), at(frame + after)] : [at(frame + after)]
  })
  return inOrder([...own, ...sharp].sort((a, b) => a.frame - b.frame))
}

function inStretch(ratio: number): boolean {
  return ratio >= 1 / MOST_STRETCH && ratio <= MOST_STRETCH
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
