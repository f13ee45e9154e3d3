/** A ride: line by line towards one loudness over the beat's. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { median } from '../audio/statistics'
import type { LanePoint } from '../song/mix-schema'
import type { LineId, Song } from '../song/schema'
import { placedLines } from '../song/select'

/** A ride takes no more than this away: more is another performance. It adds half of it at most, for breaths come up with the line that they are in. */
export const RIDE_LIMIT_DECIBELS = { usual: 6, min: 0.5, max: 12 } as const
/** It moves in the rest before a line. */
const RIDE_FRAMES = 0.15 * SAMPLE_RATE_HZ
/** What lies nearer together needs none. */
const LEAST_SPREAD_LU = 1

export interface ProposedRide {
  points: LanePoint[]
  /** How far the lines lie apart, and how far they will. */
  spreadLu: number
  leftLu: number
}

/**
 * @param over How far each line stands over the beat's voice band, in LU, whatever is aimed at: the usual of them stays as it is.
 * @param left How far each was still off, in LU, with the ride that is proposed without knowing it: compressors give back a part of what it takes.
 * @param base What the ride's points are added to: 0 for a level, what is sent without it for a send.
 * @returns null where the lines lie together as it is.
 */
export function proposeRide(
  song: Song,
  over: ReadonlyMap<LineId, number>,
  { left = new Map(), base = 0, limitDecibels = RIDE_LIMIT_DECIBELS.usual }: { left?: ReadonlyMap<LineId, number>; base?: number; limitDecibels?: number } = {},
): ProposedRide | null {
  const known = placedLines(song).flatMap(line => {
    const value = over.get(line.line.id)
    return value !== undefined && Number.isFinite(value) ? [{ line, value }] : []
  })
  if (known.length < 2) return null
  const usual = median(known.map(({ value }) => value))
  const bounded = (decibels: number) => Math.max(-limitDecibels, Math.min(limitDecibels / 2, decibels))
  const offs = known.map(({ line, value }) => {
    const off = value - usual
    const first = bounded(-off)
    const still = left.get(line.line.id) ?? off + first
    const by = left.has(line.line.id) ? bounded(first - still) : first
    return { line, off, by, left: still + by - first }
  })
  const spread = (values: readonly number[]) => Math.max(...values) - Math.min(...values)
  const spreadLu = spread(offs.map(({ off }) => off))
  if (spreadLu < LEAST_SPREAD_LU) return null
  const points = offs.flatMap(({ line, by }, i): LanePoint[] => {
    const startFrame = Math.max(0, Math.round(line.startFrame - RIDE_FRAMES / 2))
    const next = offs[i + 1]?.line.startFrame ?? Infinity
    const value = Math.round(10 * (base + by)) / 10
    return [
      { frame: startFrame, value },
      { frame: Math.round(Math.min(line.endFrame, next) - RIDE_FRAMES), value },
    ]
  })
  return { points, spreadLu, leftLu: spread(offs.map(entry => entry.left)) }
}
