/** What is mended in a take, as its layer's policy asks: each mend with its place, its amount and why. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { MEND_KINDS, type GainEdit, type MendKind } from '../song/edit-schema'
import type { Role } from '../song/schema'
import { TIDY_RANGE_DECIBELS, type TidyPolicy } from '../song/tidy-schema'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import type { Stretch } from '../voice/phrases'

const OUT = TIDY_RANGE_DECIBELS.min

const LEAD: TidyPolicy = { breathDecibels: -8, essDecibels: 0, popDecibels: -15, restDecibels: OUT, mendsClicks: true }
/** One breath and one ess are heard, and not five. */
const STACKED: TidyPolicy = { breathDecibels: OUT, essDecibels: -9, popDecibels: -15, restDecibels: OUT, mendsClicks: true }

/** What a role's layers begin with. */
export const USUAL_TIDY: Record<Role, TidyPolicy> = {
  lead: LEAD,
  double: STACKED,
  'high-harmony': STACKED,
  'low-harmony': STACKED,
  octave: STACKED,
  'ad-lib': LEAD,
  spare: { breathDecibels: 0, essDecibels: 0, popDecibels: 0, restDecibels: 0, mendsClicks: false },
}

/** Frames of the take's asset. */
export interface Mend {
  kind: MendKind
  startFrame: number
  endFrame: number
  /** 0 of a click, which is drawn anew. */
  decibels: number
}

/** What was found in a take that a policy can ask about. */
export type Findings = Pick<VoiceAnalysis, 'breaths' | 'esses' | 'pops' | 'clicks' | 'phrases'>

/** A phrase is kept with so much round it, for what was too soft to be found. */
const PHRASE_MARGIN_SECONDS = 0.06
const LEAST_REST_SECONDS = 0.15

/** @param seconds Length of the take's sound. @returns in order of their starts; those of one kind do not overlap. */
export function mendsFor(found: Findings, policy: TidyPolicy, seconds: number): Mend[] {
  const lowered = (kind: MendKind, stretches: readonly Stretch[], decibels: number) =>
    decibels < 0 ? stretches.map(stretch => mendAt(kind, stretch, decibels)) : []
  return [
    ...lowered('breath', found.breaths, policy.breathDecibels),
    ...lowered('ess', found.esses, policy.essDecibels),
    ...lowered('pop', found.pops, policy.popDecibels),
    ...lowered('rest', restsOf(found, policy, seconds), policy.restDecibels),
    ...(policy.mendsClicks ? found.clicks.map(stretch => mendAt('click', stretch, 0)) : []),
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

/** Over so long a mend sets in and lets go; an ess is shorter than a rest. */
const FADE_SECONDS: Record<MendKind, number> = { breath: 0.03, ess: 0.008, pop: 0.01, rest: 0.04, click: 0 }

/** What a gain over the take can do; pops and clicks are drawn anew. */
export function isGain({ kind }: Mend): boolean {
  return kind === 'breath' || kind === 'ess' || kind === 'rest'
}

export function gainsOf(mends: readonly Mend[]): Omit<GainEdit, 'id'>[] {
  return mends.filter(isGain).map(({ kind, startFrame, endFrame, decibels }) => ({
    startFrame,
    endFrame,
    gainDecibels: decibels,
    fadeFrames: Math.round(FADE_SECONDS[kind] * SAMPLE_RATE_HZ),
  }))
}
