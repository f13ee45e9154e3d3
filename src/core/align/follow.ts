/** Where each syllable of the lead is in another voice. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { median } from '../audio/statistics'
import { trackPitch } from '../voice/pitch'
import { apart, warpPath } from './warp'
import { featuresOf, HOPS_A_SECOND, type Features } from './features'

/** Where something begins or ends in the lead, and where that is in the other voice; seconds. */
export interface Anchor {
  leadSeconds: number
  otherSeconds: number
  /** How clearly, 0 to 1. */
  certainty: number
}

/** Places where the lead changes most are looked at this near to each other at most. */
const LEAST_APART_SECONDS = 0.06
/** The place is sought within so much of where the path has it. */
const SEARCH_SECONDS = 0.05
/** By what lies so long before it and after it. */
const BEFORE_SECONDS = 0.04
const AFTER_SECONDS = 0.08
/** Against the strongest changes of the lead, weaker ones say nothing. */
const LEAST_CHANGE = 0.12
const LEAST_CERTAINTY = 0.25

/** @param lead One channel at 48 kHz; so is the other. @returns in order of both, none where they are not alike. */
export function findAnchors(lead: Mono, other: Mono): Anchor[] {
  const [a, b] = [featuresOf(lead), featuresOf(other)]
  const path = warpPath(a, b)
  const hopIn = (hop: number) => {
    const at = Math.min(path.hops.length - 1.001, hop / path.stride)
    const whole = Math.floor(at)
    return path.hops[whole] + (at - whole) * (path.hops[whole + 1] - path.hops[whole])
  }
  const anchors = changesOf(a).flatMap(hop => {
    const found = bestPlace(a, b, hop, hopIn(hop))
    return found && found.certainty >= LEAST_CERTAINTY
      ? [{ leadSeconds: hop / HOPS_A_SECOND, otherSeconds: found.hop / HOPS_A_SECOND, certainty: found.certainty }]
      : []
  })
  const early = earlySeconds(lead, other)
  return inOrder(anchors.map(anchor => ({ ...anchor, otherSeconds: anchor.otherSeconds + early })))
}

/**
 * How much of what two voices' periods differ by the lower one is heard before its words are due. Recorded voices brought to another pitch: about half of
 * it (four of them, at intervals of 4 and 12 semitones); voices made pulse by pulse: none. What lies between is wrong by the least in both, 2 ms an octave
 * below a bass.
 */
const EARLY_PERIODS = 0.25

/** How much earlier the other is heard than its words are due; 0 where one of them has no pitch. */
function earlySeconds(lead: Mono, other: Mono): number {
  const [leadHz, otherHz] = [lead, other].map(voice => trackPitch(voice).f0Hz.filter(hz => hz > 0))
  if (leadHz.length === 0 || otherHz.length === 0) return 0
  return EARLY_PERIODS * (1 / median(otherHz) - 1 / median(leadHz))
}

/** A change is what lies so many hops before and after differ in. */
const CHANGE_HOPS = 3

/** Hops at which the lead's spectrum changes most, up or down. */
function changesOf(features: Features): number[] {
  const { hops, dims, values } = features
  const bands = dims / 2
  const change = new Float32Array(hops)
  for (let hop = CHANGE_HOPS; hop < hops - CHANGE_HOPS; hop++) {
    let sum = 0
    for (let b = 0; b < bands; b++) sum += Math.abs(values[(hop + CHANGE_HOPS) * dims + b] - values[(hop - CHANGE_HOPS) * dims + b])
    change[hop] = sum
  }
  const strongest = change.toSorted().at(Math.floor(0.98 * hops)) ?? 0
  const apartHops = Math.round(LEAST_APART_SECONDS * HOPS_A_SECOND)
  const order = Array.from(change.keys())
    .filter(hop => change[hop] > LEAST_CHANGE * strongest && change[hop] >= change[hop - 1] && change[hop] > (change[hop + 1] ?? 0))
    .sort((x, y) => change[y] - change[x])
  const taken: number[] = []
  for (const hop of order) if (taken.every(other => Math.abs(other - hop) >= apartHops)) taken.push(hop)
  return taken.sort((x, y) => x - y)
}

function bestPlace(a: Features, b: Features, hop: number, expected: number): { hop: number; certainty: number } | null {
  const [before, after, search] = [BEFORE_SECONDS, AFTER_SECONDS, SEARCH_SECONDS].map(seconds => Math.round(seconds * HOPS_A_SECOND))
  const centre = Math.round(expected)
  if (hop - before < 0 || hop + after >= a.hops) return null
  const costs = Array.from({ length: 2 * search + 1 }, (_, i) => {
    const at = centre + i - search
    if (at - before < 0 || at + after >= b.hops) return Infinity
    let sum = 0
    for (let k = -before; k <= after; k++) sum += apart(a, b, hop + k, at + k)
    return sum
  })
  let best = 0
  for (let i = 1; i < costs.length; i++) if (costs[i] < costs[best]) best = i
  const known = costs.filter(Number.isFinite).sort((x, y) => x - y)
  if (known.length < search) return null
  const middle = known[known.length >> 1]
  const certainty = (middle - costs[best]) / (middle + 1e-9)
  const [left, right] = [costs[best - 1] ?? Infinity, costs[best + 1] ?? Infinity]
  const bend = left - 2 * costs[best] + right
  // Of one and the same sound the place is the place.
  const fraction = Number.isFinite(bend) && bend > 0 && costs[best] > 1e-9 ? (0.5 * (left - right)) / bend : 0
  return { hop: centre + best - search + fraction, certainty }
}

/** Between two anchors a voice is stretched by no more than this. */
const MOST_STRETCH = 2

/** The clearest first; one that would turn time round, or stretch it too far, is left out. */
function inOrder(anchors: readonly Anchor[]): Anchor[] {
  const kept: Anchor[] = []
  for (const anchor of [...anchors].sort((x, y) => y.certainty - x.certainty)) {
    const fits = kept.every(other => {
      const [lead, own] = [anchor.leadSeconds - other.leadSeconds, anchor.otherSeconds - other.otherSeconds]
      return own / lead >= 1 / MOST_STRETCH && own / lead <= MOST_STRETCH
    })
    if (fits) kept.push(anchor)
  }
  return kept.sort((x, y) => x.leadSeconds - y.leadSeconds)
}

/** An anchor as a place of the other voice: its frame, and by how much later the lead has it. */
export function placeOf({ leadSeconds, otherSeconds }: Anchor): [frame: number, laterFrames: number] {
  const frame = Math.round(otherSeconds * SAMPLE_RATE_HZ)
  return [frame, Math.round(leadSeconds * SAMPLE_RATE_HZ) - frame]
}
