/** Where a seam may go: rests, the moment before a breath, consonants without voice, and only then the softest spots of the voice. */
import { powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { FrameRange } from '../song/select'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import { runsOf } from '../voice/runs'
import { goOnAlike } from './same-syllable'

/** A take that was listened to, and the song frame at which its sound begins. */
export interface AnalysedTake {
  analysis: VoiceAnalysis
  originFrame: number
}

export type QuietReason = 'rest' | 'before-breath' | 'consonant' | 'soft'

export interface QuietPlace {
  frame: number
  reason: QuietReason
  /** How long it is so quiet round the frame. */
  roomFrames: number
}

/** What a hop of a take holds; a seam through several takes is as bad as the worst of them. */
const HOLDS = { rest: 0, breath: 1, consonant: 2, voice: 3 } as const

/** A rest must hold a crossfade of 12 ms and what the edges of voicing are uncertain by on both sides. */
const LEAST_REST_SECONDS = 0.03
const LEAST_CONSONANT_SECONDS = 0.03
/** The edges of voicing are found to within about this. */
const VOICE_MARGIN_SECONDS = 0.012
/** In a long rest a seam stands this long before what follows, so that the way in is not cut. */
const WAY_IN_SECONDS = 0.12
/** A soft spot lies this far below the voice on both sides. */
const SOFT_DECIBELS = 7
/** Looked at on both sides of a soft spot: about a syllable. */
const SOFT_REACH_SECONDS = 0.15

/** Whatever holds in each hop of a take: see HOLDS. Beyond its ends a take rests. */
function holdsOf({ analysis, originFrame }: AnalysedTake, range: FrameRange, hops: number): Uint8Array {
  const { f0Hz, phrases, hopSeconds } = analysis
  const first = (range.startFrame - originFrame) / SAMPLE_RATE_HZ / hopSeconds
  const holds = new Uint8Array(hops)
  const fill = (startSeconds: number, endSeconds: number, what: number) => {
    const from = Math.floor(startSeconds / hopSeconds - first)
    const to = Math.ceil(endSeconds / hopSeconds - first)
    for (let i = Math.max(0, from); i < Math.min(hops, to); i++) holds[i] = Math.max(holds[i], what)
  }
  for (const breath of analysis.breaths) fill(breath.startSeconds, breath.endSeconds, HOLDS.breath)
  for (const phrase of phrases) fill(phrase.startSeconds, phrase.endSeconds, HOLDS.consonant)
  const from = Math.max(0, Math.floor(first - VOICE_MARGIN_SECONDS / hopSeconds))
  const to = Math.min(f0Hz.length, Math.ceil(first + hops + VOICE_MARGIN_SECONDS / hopSeconds))
  for (const run of runsOf(to - from, i => f0Hz[from + i] > 0))
    fill((from + run.from) * hopSeconds - VOICE_MARGIN_SECONDS, (from + run.to) * hopSeconds + VOICE_MARGIN_SECONDS, HOLDS.voice)
  return holds
}

/**
 * Places for a seam within a range at which all the given takes are quiet at once, in order of time.
 * A breath is left whole, to the phrase after it: a seam goes before it. Without any take nothing is offered.
 * Only where there is neither rest nor consonant in the whole range are the softest spots of the voice offered.
 */
export function findQuietPlaces(takes: readonly AnalysedTake[], range: FrameRange): QuietPlace[] {
  if (takes.length === 0 || range.endFrame <= range.startFrame) return []
  const hopSeconds = takes[0].analysis.hopSeconds
  const hop = hopSeconds * SAMPLE_RATE_HZ
  const hops = Math.max(1, Math.floor((range.endFrame - range.startFrame) / hop))
  const worst = new Uint8Array(hops)
  for (const take of takes) holdsOf(take, range, hops).forEach((what, i) => (worst[i] = Math.max(worst[i], what)))
  const frameOf = (at: number) => Math.round(range.startFrame + at * hop)
  const places: QuietPlace[] = []
  for (const gap of runsOf(hops, i => worst[i] <= HOLDS.breath)) {
    const rest = longest(runsOf(gap.to - gap.from, i => worst[gap.from + i] === HOLDS.rest))
    if (rest && (rest.to - rest.from) * hopSeconds >= LEAST_REST_SECONDS) {
      const from = gap.from + rest.from
      const to = gap.from + rest.to
      const beforeBreath = to < gap.to
      const at = Math.max((from + to) / 2, to - WAY_IN_SECONDS / hopSeconds)
      places.push({ frame: frameOf(at), reason: beforeBreath ? 'before-breath' : 'rest', roomFrames: Math.round(2 * Math.min(at - from, to - at) * hop) })
    } else if ((gap.to - gap.from) * hopSeconds >= LEAST_REST_SECONDS)
      places.push({ frame: frameOf(gap.from + 2), reason: 'before-breath', roomFrames: Math.round(4 * hop) })
  }
  for (const run of runsOf(hops, i => worst[i] === HOLDS.consonant)) {
    // At the range's edges what goes on is not known.
    if (run.from === 0 || run.to === hops || (run.to - run.from) * hopSeconds < LEAST_CONSONANT_SECONDS) continue
    const touchesRest = worst[run.from - 1] < HOLDS.consonant || worst[run.to] < HOLDS.consonant
    const at = Math.floor((run.from + run.to) / 2)
    if (!touchesRest && goOnAlike(takes, frameOf(at)))
      places.push({ frame: frameOf(at), reason: 'consonant', roomFrames: Math.round((run.to - run.from) * hop) })
  }
  return places.length > 0 ? places.sort((a, b) => a.frame - b.frame) : softSpots(takes, range, hops, hop)
}

/** The deepest dips of all takes' power together. */
function softSpots(takes: readonly AnalysedTake[], range: FrameRange, hops: number, hop: number): QuietPlace[] {
  const level = Float32Array.from({ length: hops }, (_, i) => {
    let power = 0
    for (const { analysis, originFrame } of takes) power += analysis.power[Math.round((range.startFrame - originFrame) / hop) + i] ?? 0
    return powerToDecibels(power + 1e-10)
  })
  const reach = Math.round((SOFT_REACH_SECONDS * SAMPLE_RATE_HZ) / hop)
  const spots: QuietPlace[] = []
  for (let i = reach; i < hops - reach; i++) {
    const around = level.subarray(i - reach, i + reach + 1)
    if (level[i] > Math.min(...around)) continue
    const before = Math.max(...level.subarray(i - reach, i))
    const after = Math.max(...level.subarray(i + 1, i + reach + 1))
    if (Math.min(before, after) - level[i] >= SOFT_DECIBELS)
      spots.push({ frame: Math.round(range.startFrame + i * hop), reason: 'soft', roomFrames: Math.round(4 * hop) })
  }
  return spots
}

function longest<T extends { from: number; to: number }>(runs: readonly T[]): T | null {
  return runs.reduce<T | null>((best, run) => (best && best.to - best.from >= run.to - run.from ? best : run), null)
}

/**
 * How much further away a place of a better kind may lie and still be taken. Beyond half a second (SEAM_REACH_FRAMES) none is looked for:
 * so a rest wins over a soft spot nearly everywhere, over a consonant within 0.2 s.
 */
const REASON_COST_SECONDS: Record<QuietReason, number> = { rest: 0, 'before-breath': 0.02, consonant: 0.2, soft: 0.45 }

/** The best place within reach of a frame: near, and of a good kind. Null if there is none. */
export function bestQuietPlace(takes: readonly AnalysedTake[], frame: number, reachFrames: number): QuietPlace | null {
  const wide = findQuietPlaces(takes, { startFrame: frame - reachFrames - CONTEXT_FRAMES, endFrame: frame + reachFrames + CONTEXT_FRAMES }).filter(
    place => Math.abs(place.frame - frame) <= reachFrames,
  )
  const places = wide.length > 0 ? wide : findQuietPlaces(takes, { startFrame: frame - reachFrames, endFrame: frame + reachFrames })
  const cost = (place: QuietPlace) => Math.abs(place.frame - frame) / SAMPLE_RATE_HZ + REASON_COST_SECONDS[place.reason]
  return places.reduce<QuietPlace | null>((best, place) => (best && cost(best) <= cost(place) ? best : place), null)
}

/** Looked at beyond the reach, so that rests at its edge are seen whole. */
const CONTEXT_FRAMES = 24_000

/** How bad it is to change takes near a frame: 0 in a rest, 1 where all is voice. */
export function seamCostAt(takes: readonly AnalysedTake[], frame: number): number {
  const place = bestQuietPlace(takes, frame, CONTEXT_FRAMES)
  return place ? { rest: 0, 'before-breath': 0, consonant: 0.4, soft: 0.8 }[place.reason] : 1
}
