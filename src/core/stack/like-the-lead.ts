/** How near a take of a line is to what the lead plays there: in time and in its syllables. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { median } from '../audio/statistics'
import { featuresOf, HOPS_A_SECOND, type Features } from '../align/features'
import { apart, warpPath } from '../align/warp'

export interface LikeTheLead {
  /** Median over the moments at which the lead sounds; after the lead positive. */
  lateMilliseconds: number
  /** Median of how far off it is, whichever way. */
  offMilliseconds: number
  /** 1: the same syllables, sung alike; near 0: others. */
  likeness: number
}

/** What is compared with several takes is looked at once. */
export type Compared = Features

export function lookAt(sound: Mono): Compared {
  return featuresOf(sound)
}

/** Of a hop in which a voice sounds, the mean of the features is above this; see `featuresOf`. */
const SOUNDS = 0.5

/** @returns null where the lead is silent. Both begin together. */
export function likeTheLead(lead: Compared, other: Compared): LikeTheLead | null {
  const path = warpPath(lead, other)
  const late: number[] = []
  let along = 0
  let across = 0
  let count = 0
  path.hops.forEach((hop, i) => {
    const at = Math.min(lead.hops - 1, i * path.stride)
    if (meanOf(lead, at) < SOUNDS) return
    const there = Math.min(other.hops - 1, Math.round(hop))
    late.push((1_000 * (hop - at)) / HOPS_A_SECOND)
    along += apart(lead, other, at, there)
    // What any other moment of the line would have been.
    across += apart(lead, other, at, (there + (other.hops >> 1)) % other.hops)
    count++
  })
  if (count === 0) return null
  const lateMilliseconds = median(late)
  return { lateMilliseconds, offMilliseconds: median(late.map(Math.abs)), likeness: across > 0 ? Math.max(0, 1 - along / across) : 1 }
}

function meanOf({ values, dims }: Features, hop: number): number {
  const bands = dims / 2
  let sum = 0
  for (let b = 0; b < bands; b++) sum += values[hop * dims + b]
  return sum / bands
}

/** In frames, rounded. */
export function framesOfLate({ lateMilliseconds }: LikeTheLead): number {
  return Math.round((lateMilliseconds * SAMPLE_RATE_HZ) / 1_000)
}
