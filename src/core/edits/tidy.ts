/** What is mended in a take, as its layer's policy asks: each mend with its place, its amount and why. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { MEND_KINDS, type GainEdit, type MendKind } from '../song/edit-schema'
import type { Role } from '../song/schema'
import type { FrameRange } from '../song/select'
import { TIDY_RANGE_DECIBELS, type TidyPolicy } from '../song/tidy-schema'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import type { Stretch } from '../voice/phrases'

const OUT = TIDY_RANGE_DECIBELS.min

const LEAD: TidyPolicy = {
  breathDecibels: -8,
  essDecibels: 0,
  popDecibels: -15,
  restDecibels: OUT,
  mendsClicks: true,
  fillsNoises: true,
  // A makeshift, which the singer asks for.
  roundsClips: false,
  finalDecibels: 0,
  endsWithLead: false,
}
/** One breath, one ess and one end are heard, and not five. */
const STACKED: TidyPolicy = { ...LEAD, breathDecibels: OUT, essDecibels: -9, finalDecibels: -9, endsWithLead: true }
const LEFT: TidyPolicy = { ...LEAD, breathDecibels: 0, popDecibels: 0, restDecibels: 0, mendsClicks: false, fillsNoises: false }

/** What a role's layers begin with. */
export const USUAL_TIDY: Record<Role, TidyPolicy> = {
  lead: LEAD,
  double: STACKED,
  'high-harmony': STACKED,
  'low-harmony': STACKED,
  octave: STACKED,
  'ad-lib': LEAD,
  spare: LEFT,
}

/** Frames of the take's asset. */
export interface Mend {
  kind: MendKind
  startFrame: number
  endFrame: number
  /** 0 of what is drawn anew: a click, clipped tops, a noise with tone. */
  decibels: number
  /** Of a noise: where in the take the room's own tone lies that takes its place. */
  tone?: FrameRange
}

/** What was found in a take that a policy can ask about. */
export type Findings = Pick<VoiceAnalysis, 'breaths' | 'esses' | 'pops' | 'clicks' | 'phrases' | 'noises' | 'finals' | 'clipped'>

/** A phrase is kept with so much round it, for what was too soft to be found. */
const PHRASE_MARGIN_SECONDS = 0.06
const LEAST_REST_SECONDS = 0.15

/** Clipped tops nearer than this are one mend. */
const CLIPS_JOIN_SECONDS = 0.15

/**
 * @param seconds Length of the take's sound. @param leadEnds Where the lead's phrases end, on the take's own clock.
 * @returns in order of their starts; those of one kind do not overlap.
 */
export function mendsFor(found: Findings, policy: TidyPolicy, seconds: number, leadEnds: readonly Stretch[] = []): Mend[] {
  const lowered = (kind: MendKind, stretches: readonly Stretch[], decibels: number) =>
    decibels < 0 ? stretches.map(stretch => mendAt(kind, stretch, decibels)) : []
  return [
    ...lowered('breath', found.breaths, policy.breathDecibels),
    ...lowered('ess', found.esses, policy.essDecibels),
    ...lowered('pop', found.pops, policy.popDecibels),
    ...lowered('rest', restsOf(found, policy, seconds), policy.restDecibels),
    ...lowered('final', finalsBesideEsses(found, policy), policy.finalDecibels),
    ...(policy.endsWithLead ? lowered('end', lateEnds(found.phrases, leadEnds), OUT) : []),
    ...(policy.mendsClicks ? found.clicks.map(stretch => mendAt('click', stretch, 0)) : []),
    ...(policy.roundsClips ? joined(found.clipped, CLIPS_JOIN_SECONDS).map(stretch => mendAt('clip', stretch, 0)) : []),
    ...(policy.fillsNoises ? filledNoises(found, seconds) : []),
  ].sort((a, b) => a.startFrame - b.startFrame || MEND_KINDS.indexOf(a.kind) - MEND_KINDS.indexOf(b.kind))
}

function mendAt(kind: MendKind, { startSeconds, endSeconds }: Stretch, decibels: number): Mend {
  const startFrame = Math.max(0, Math.round(startSeconds * SAMPLE_RATE_HZ))
  return { kind, startFrame, endFrame: Math.max(startFrame + 1, Math.round(endSeconds * SAMPLE_RATE_HZ)), decibels }
}

/** Where nobody sings; round breaths that are louder than the rests are to be, and through those that are not. */
function restsOf({ phrases, breaths }: Findings, { breathDecibels, restDecibels }: TidyPolicy, seconds: number): Stretch[] {
  const kept = phrases.map(({ startSeconds, endSeconds }) => ({
    startSeconds: startSeconds - PHRASE_MARGIN_SECONDS,
    endSeconds: endSeconds + PHRASE_MARGIN_SECONDS,
  }))
  if (kept.length === 0) return []
  const sounding = [...kept, ...(breathDecibels > restDecibels ? breaths : [])].sort((a, b) => a.startSeconds - b.startSeconds)
  const rests: Stretch[] = []
  let at = 0
  for (const { startSeconds, endSeconds } of [...sounding, { startSeconds: seconds, endSeconds: seconds }]) {
    if (startSeconds - at >= LEAST_REST_SECONDS) rests.push({ startSeconds: at, endSeconds: startSeconds })
    at = Math.max(at, endSeconds)
  }
  return rests
}

/** An s at the end of a phrase is thinned once. */
function finalsBesideEsses({ finals, esses }: Findings, { essDecibels }: TidyPolicy): Stretch[] {
  return essDecibels < 0 ? finals.filter(final => !esses.some(ess => overlap(ess, final))) : [...finals]
}

function overlap(a: Stretch, b: Stretch): boolean {
  return a.startSeconds < b.endSeconds && b.startSeconds < a.endSeconds
}

/** An end that is later by less is together; one that is later by more is meant so. */
const LATE_END_SECONDS = { least: 0.04, most: 0.8 }
/** A phrase that begins this long before the lead's ends is sung with it. */
const SUNG_WITH_SECONDS = 0.2
/** The fade sets in before the lead's end, and lasts until the rest has set in. */
const END_LEAD_IN_SECONDS = 0.03

function lateEnds(phrases: readonly Stretch[], leadPhrases: readonly Stretch[]): Stretch[] {
  return phrases.flatMap(({ startSeconds, endSeconds }, i) => {
    const withLead = (lead: Stretch) => startSeconds < lead.endSeconds - SUNG_WITH_SECONDS && endSeconds > lead.startSeconds
    const lead = leadPhrases.findLast(withLead)
    // Where the lead goes on or comes in again, nothing sticks out.
    if (!lead || leadPhrases.some(other => other !== lead && overlap(other, { startSeconds: lead.endSeconds, endSeconds }))) return []
    const late = endSeconds - lead.endSeconds
    if (late < LATE_END_SECONDS.least || late > LATE_END_SECONDS.most) return []
    const next = phrases[i + 1]?.startSeconds ?? Infinity
    const until = Math.min(next, endSeconds + PHRASE_MARGIN_SECONDS + FADE_SECONDS.rest)
    return [{ startSeconds: lead.endSeconds - END_LEAD_IN_SECONDS, endSeconds: until }]
  })
}

function joined(stretches: readonly Stretch[], withinSeconds: number): Stretch[] {
  const all: Stretch[] = []
  for (const { startSeconds, endSeconds } of stretches) {
    const last = all.at(-1)
    if (last && startSeconds - last.endSeconds < withinSeconds) last.endSeconds = Math.max(last.endSeconds, endSeconds)
    else all.push({ startSeconds, endSeconds })
  }
  return all
}

/** A noise with so much beside it is replaced. */
const NOISE_MARGIN_SECONDS = 0.02
/** Shorter pieces of the room have no tone; more of it is not needed. */
const TONE_SECONDS = { least: 0.2, most: 1.5 }

function filledNoises(found: Findings, seconds: number): Mend[] {
  const tone = found.noises.length > 0 ? toneOf(found, seconds) : null
  return found.noises.map(({ startSeconds, endSeconds }) => {
    const stretch = { startSeconds: startSeconds - NOISE_MARGIN_SECONDS, endSeconds: endSeconds + NOISE_MARGIN_SECONDS }
    const mend = mendAt('noise', stretch, tone ? 0 : OUT)
    return tone ? { ...mend, tone } : mend
  })
}

/** The longest stretch in which nothing but the room is heard. */
function toneOf({ phrases, breaths, noises, pops, clicks }: Findings, seconds: number): FrameRange | null {
  const sounding = [...phrases, ...breaths, ...noises, ...pops, ...clicks].sort((a, b) => a.startSeconds - b.startSeconds)
  let at = 0
  let best = { startSeconds: 0, endSeconds: 0 }
  for (const { startSeconds, endSeconds } of [...sounding, { startSeconds: seconds, endSeconds: seconds }]) {
    const [from, to] = [at + PHRASE_MARGIN_SECONDS, startSeconds - PHRASE_MARGIN_SECONDS]
    if (to - from > best.endSeconds - best.startSeconds) best = { startSeconds: from, endSeconds: to }
    at = Math.max(at, endSeconds)
  }
  const length = Math.min(TONE_SECONDS.most, best.endSeconds - best.startSeconds)
  if (length < TONE_SECONDS.least) return null
  const middle = (best.startSeconds + best.endSeconds) / 2
  return { startFrame: Math.round((middle - length / 2) * SAMPLE_RATE_HZ), endFrame: Math.round((middle + length / 2) * SAMPLE_RATE_HZ) }
}

/** Over so long a mend sets in and lets go; an ess is shorter than a rest. */
const FADE_SECONDS: Record<MendKind, number> = { breath: 0.03, ess: 0.008, pop: 0.01, rest: 0.04, click: 0, noise: 0.02, clip: 0, final: 0.012, end: 0.09 }

const GAINS: ReadonlySet<MendKind> = new Set(['breath', 'ess', 'rest', 'final', 'end'])

/** What a gain over the take can do; the others are drawn anew. A noise is taken out where the take holds no tone of its room. */
export function isGain({ kind, tone }: Mend): boolean {
  return GAINS.has(kind) || (kind === 'noise' && !tone)
}

export function gainsOf(mends: readonly Mend[]): Omit<GainEdit, 'id'>[] {
  return mends.filter(isGain).map(({ kind, startFrame, endFrame, decibels }) => ({
    startFrame,
    endFrame,
    gainDecibels: decibels,
    fadeFrames: Math.round(FADE_SECONDS[kind] * SAMPLE_RATE_HZ),
  }))
}
