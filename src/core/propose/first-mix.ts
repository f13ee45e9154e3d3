/** A first mix, value by value, each with its reason: what a practised ear would set before listening closely. */
import { median } from '../audio/statistics'
import { framesPerBeat } from '../beat/grid'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { setLayerMix } from '../mix/commands'
import { addStep, moveStep, recipeAt, setStep, type RecipePlace, type StepKind } from '../mix/recipes'
import { setRide } from '../mix/rides'
import { setSpace } from '../mix/spaces'
import { USUAL_COMPRESSOR } from '../effects/compressor'
import { EMPTY_RECIPE } from '../song/usual-mix'
import { MOST_STEPS, type LanePoint, type SpaceId } from '../song/mix-schema'
import type { LayerId, LineId, Role, Song } from '../song/schema'
import { aimedLoudness, restingLines } from './lines-aimed'
import type { MixFacts, VoiceFacts } from './mix-facts'
import { proposeRide } from './ride'

/** How far the lead stands over the beat's voice band, in loudness units, unless the singer says otherwise. */
export const LEAD_OVER_BEAT_LU = { usual: 3, min: -6, max: 15 } as const

/** How far each role stays below the lead, in loudness units: doubles at a quarter to a third of it, harmonies a little further back. */
const BELOW_LEAD_LU: Record<Role, number> = { lead: 0, double: 11, 'high-harmony': 11, 'low-harmony': 12, octave: 14, 'ad-lib': 9, spare: 8 }

export type Proposed =
  | { kind: 'level'; layerId: LayerId; gainDecibels: number; reason: { overBeatLu: number; belowLeadLu: number; restingLines: number } }
  | { kind: 'low-cut'; layerId: LayerId; cutoffHz: number; reason: { lowestHz: number } }
  | { kind: 'cut'; layerId: LayerId; band: 'boom' | 'bark'; hz: number; decibels: number; reason: { standsOutDecibels: number } }
  | { kind: 'esses'; role: Role; thresholdDecibels: number; reason: { overVoiceDecibels: number } }
  | { kind: 'press'; role: Role | 'all'; thresholdDecibels: number; ratio: number; reason: { loudDbfs: number; takesDecibels: number } }
  | { kind: 'reverb'; spaceId: SpaceId; decaySeconds: number; preDelaySeconds: number; reason: { tempoBpm: number; density: number } }
  | { kind: 'ride'; layerId: LayerId; points: LanePoint[]; reason: { spreadLu: number; leftLu: number } }

/** How much louder or softer the lead came out of the mix as it is proposed than it was meant to, in LU by line; see `readCorrections`. */
export interface Corrections {
  unridden: ReadonlyMap<LineId, number>
  /** With the ride that is proposed by that. */
  ridden: ReadonlyMap<LineId, number>
}

export function proposeFirstMix(
  song: Song,
  heard: MixFacts,
  { leadOverBeatLu, corrections = null }: { leadOverBeatLu: number; corrections?: Corrections | null },
): Proposed[] {
  // Of a layer that was removed since nothing is proposed.
  const facts = { ...heard, voices: heard.voices.filter(voice => roleOf(song, voice.layerId) !== null) }
  const lead = facts.voices.find(voice => roleOf(song, voice.layerId) === 'lead')
  const aims = aimedLoudness(facts.beat, leadOverBeatLu)
  const usualOff = (offs: ReadonlyMap<LineId, number> | undefined) => (offs && offs.size > 0 ? median([...offs.values()]) : 0)
  const correction = usualOff(corrections?.unridden) + usualOff(corrections?.ridden)
  const leadAim = lead ? aimOf(lead, aims) : null
  const levels = facts.voices.flatMap((voice): Proposed[] => {
    const role = roleOf(song, voice.layerId)
    const own = usualOf(voice)
    if (own === null || leadAim === null || role === null) return []
    const belowLeadLu = BELOW_LEAD_LU[role]
    const gainDecibels = tenth(clamp(leadAim - belowLeadLu - own - (role === 'lead' ? correction : 0), -40, 12))
    return [
      {
        kind: 'level',
        layerId: voice.layerId,
        gainDecibels,
        reason: { overBeatLu: leadOverBeatLu - belowLeadLu, belowLeadLu, restingLines: restingLines(facts.beat) },
      },
    ]
  })
  const gainOf = (layerId: LayerId) =>
    levels.find(level => level.kind === 'level' && level.layerId === layerId) as Extract<Proposed, { kind: 'level' }> | undefined
  return [
    ...levels,
    ...facts.voices.filter(({ layerId }) => hasRoom(song, { kind: 'layer', layerId }, 'low-cut')).flatMap(lowCutOf),
    ...facts.voices.filter(({ layerId }) => hasRoom(song, { kind: 'layer', layerId }, 'equaliser')).flatMap(cutsOf),
    ...rolesOf(song, facts).flatMap(role => essesOfRole(song, facts, role, id => gainOf(id)?.gainDecibels ?? 0)),
    ...rolesOf(song, facts).flatMap(role => pressOfRole(song, facts, role, id => gainOf(id)?.gainDecibels ?? 0)),
    ...reverbsOf(song, facts),
    ...(lead ? rideOf(song, lead, aims, corrections) : []),
  ]
}

function roleOf(song: Song, layerId: LayerId): Role | null {
  return song.layers.find(layer => layer.id === layerId)?.role ?? null
}

/** A recipe that is full takes no step more. */
function hasRoom(song: Song, place: RecipePlace, kind: StepKind): boolean {
  const { steps } = recipeAt(song, place)
  return steps.length < MOST_STEPS || steps.some(step => step.kind === kind)
}

function rolesOf(song: Song, facts: MixFacts): Role[] {
  return [...new Set(facts.voices.flatMap(voice => roleOf(song, voice.layerId) ?? []))]
}

/** The usual loudness of its lines. */
function usualOf(voice: VoiceFacts): number | null {
  const loud = voice.lines.map(line => line.lufs).filter(Number.isFinite)
  return loud.length > 0 ? median(loud) : null
}

/** How loud the lead is to be: the usual of its lines' aims. */
function aimOf(lead: VoiceFacts, aims: ReadonlyMap<LineId, number>): number | null {
  const known = lead.lines.flatMap(({ lineId, lufs }) => (Number.isFinite(lufs) ? (aims.get(lineId) ?? []) : []))
  return known.length > 0 ? median(known) : usualOf(lead)
}

/** Under the lowest note, and no higher than a voice loses its chest by. */
const CUT_UNDER_LOWEST = 0.7
const LOW_CUT_HZ = { min: 60, max: 200 }

function lowCutOf({ layerId, lowestHz }: VoiceFacts): Proposed[] {
  if (lowestHz === null) return []
  return [{ kind: 'low-cut', layerId, cutoffHz: Math.round(clamp(CUT_UNDER_LOWEST * lowestHz, LOW_CUT_HZ.min, LOW_CUT_HZ.max)), reason: { lowestHz } }]
}

/** The vowels' own resonances stand out by up to 9 dB in a song of the practice singer's six voices; of what is more than usual, half is taken. */
const USUAL_DECIBELS = 5
const STANDS_OUT_DECIBELS = 9
const MOST_CUT_DECIBELS = 5

function cutsOf({ layerId, boom, bark }: VoiceFacts): Proposed[] {
  return (['boom', 'bark'] as const).flatMap((band): Proposed[] => {
    const stands = band === 'boom' ? boom : bark
    if (!stands || stands.decibels < STANDS_OUT_DECIBELS) return []
    const decibels = -tenth(Math.min(MOST_CUT_DECIBELS, (stands.decibels - USUAL_DECIBELS) / 2))
    return [{ kind: 'cut', layerId, band, hz: stands.hz, decibels, reason: { standsOutDecibels: stands.decibels } }]
  })
}

/** Esses that lie less than this under the loudest of the voice's own heights are left. */
const ESS_ROOM_DECIBELS = 8
/** Where nothing tames them yet, only esses that stand out so far over the voice's own heights are. */
const ESS_STANDS_OUT_DECIBELS = 3

function essesOfRole(song: Song, facts: MixFacts, role: Role, gainOf: (id: LayerId) => number): Proposed[] {
  const place: RecipePlace = { kind: 'role', role }
  const isThere = recipeAt(song, place).steps.some(step => step.kind === 'de-esser')
  if (!isThere && (goesThrough(song, role, 'de-esser') || !hasRoom(song, place, 'de-esser'))) return []
  const heard = voicesOf(song, facts, role).flatMap(voice => (voice.esses ? [{ ...voice.esses, gain: gainOf(voice.layerId) }] : []))
  if (heard.length === 0) return []
  // A third of the way from the voice's own heights to the esses: what is under it never moves.
  const thresholds = heard.map(({ essDbfs, voiceDbfs, gain }) => Math.max(voiceDbfs + 2, essDbfs - ESS_ROOM_DECIBELS) + gain)
  const overVoiceDecibels = median(heard.map(({ essDbfs, voiceDbfs }) => essDbfs - voiceDbfs))
  if (!isThere && overVoiceDecibels < ESS_STANDS_OUT_DECIBELS) return []
  return [{ kind: 'esses', role, thresholdDecibels: Math.round(clamp(median(thresholds), -60, 0)), reason: { overVoiceDecibels } }]
}

function voicesOf(song: Song, facts: MixFacts, role: Role): VoiceFacts[] {
  return facts.voices.filter(voice => roleOf(song, voice.layerId) === role)
}

/** Whether a role's voices go through such a step anywhere on their way. */
function goesThrough(song: Song, role: Role, kind: StepKind): boolean {
  const layers = song.layers.filter(layer => layer.role === role).map(({ id }): RecipePlace => ({ kind: 'layer', layerId: id }))
  return [{ kind: 'all' } as const, { kind: 'role', role } as const, ...layers].some(place => recipeAt(song, place).steps.some(step => step.kind === kind))
}

/** Loud phrases are held back by this: the lead by all voices' compressor, a stack by its role's at about half of that. */
const LEAD_REDUCTION_DECIBELS = 5
const STACK_REDUCTION_DECIBELS = 2.5
/** Of a compressor that is not there yet. */
const USUAL_STACK_RATIO = 2

function pressOfRole(song: Song, facts: MixFacts, role: Role, gainOf: (id: LayerId) => number): Proposed[] {
  const place: RecipePlace = role === 'lead' ? { kind: 'all' } : { kind: 'role', role }
  const step = recipeAt(song, place).steps.find(entry => entry.kind === 'compressor')
  const loud = voicesOf(song, facts, role)
    .map(voice => voice.loudDbfs + gainOf(voice.layerId))
    .filter(Number.isFinite)
  if (loud.length === 0) return []
  if (!step && (isPressed(song, role) || !hasRoom(song, place, 'compressor'))) return []
  const ratio = step?.kind === 'compressor' ? step.ratio : role === 'lead' ? USUAL_COMPRESSOR.ratio : USUAL_STACK_RATIO
  const takesDecibels = role === 'lead' ? LEAD_REDUCTION_DECIBELS : STACK_REDUCTION_DECIBELS
  const loudDbfs = Math.max(...loud)
  // Above the knee a compressor takes (1 - 1/ratio) of what is over.
  const thresholdDecibels = Math.round(clamp(loudDbfs - takesDecibels / (1 - 1 / ratio), -60, 0))
  return [{ kind: 'press', role: role === 'lead' ? 'all' : role, thresholdDecibels, ratio, reason: { loudDbfs, takesDecibels } }]
}

/** The lead by what lies on it or on all voices, a stack by what lies on it or its layers: what all voices go through it shares with the lead. */
function isPressed(song: Song, role: Role): boolean {
  return goesThrough(role === 'lead' ? song : { ...song, vocalBus: { ...song.vocalBus, recipe: EMPTY_RECIPE } }, role, 'compressor')
}

/** A slow song has room for a longer answer, a dense one has not; the answer waits for a sixty-fourth, so that words stay in front. */
function reverbsOf(song: Song, { density }: MixFacts): Proposed[] {
  const { grid } = song.beat
  const beatSeconds = framesPerBeat(grid) / SAMPLE_RATE_HZ
  return song.spaces.flatMap((space): Proposed[] => {
    if (space.kind !== 'plate') return []
    const decaySeconds = tenth(clamp(beatSeconds * (density > 0.65 ? 2 : 3), 0.8, 3.5))
    return [
      {
        kind: 'reverb',
        spaceId: space.id,
        decaySeconds,
        preDelaySeconds: Math.round((1_000 * beatSeconds) / 16) / 1_000,
        reason: { tempoBpm: grid.tempoBpm, density },
      },
    ]
  })
}

/** Line by line towards what is aimed at. */
function rideOf(song: Song, lead: VoiceFacts, aims: ReadonlyMap<LineId, number>, corrections: Corrections | null): Proposed[] {
  // What is known of the mix says more than the dry voice.
  const dry = new Map(lead.lines.flatMap(({ lineId, lufs }) => (aims.has(lineId) ? [[lineId, lufs - aims.get(lineId)!] as const] : [])))
  const ride = corrections && corrections.unridden.size > 0 ? proposeRide(song, corrections.unridden, { left: corrections.ridden }) : proposeRide(song, dry)
  if (!ride) return []
  const { points, ...reason } = ride
  return [{ kind: 'ride', layerId: lead.layerId, points, reason }]
}

/** Command: one proposal, taken. */
export function takeProposal(song: Song, proposed: Proposed, makeId: () => string): Song {
  switch (proposed.kind) {
    case 'level':
      return setLayerMix(song, { layerId: proposed.layerId, gainDecibels: proposed.gainDecibels })
    case 'low-cut':
      return withStep(song, { kind: 'layer', layerId: proposed.layerId }, 'low-cut', { cutoffHz: proposed.cutoffHz }, makeId, 'first')
    case 'cut': {
      const name = proposed.band === 'boom' ? 'low' : 'high'
      const settings = { [`${name}BellHz`]: proposed.hz, [`${name}BellDecibels`]: proposed.decibels, [`${name}BellQ`]: 2 }
      return withStep(song, { kind: 'layer', layerId: proposed.layerId }, 'equaliser', settings, makeId, 'last')
    }
    case 'esses':
      return withStep(song, { kind: 'role', role: proposed.role }, 'de-esser', { thresholdDecibels: proposed.thresholdDecibels }, makeId, 'last')
    case 'press': {
      const place: RecipePlace = proposed.role === 'all' ? { kind: 'all' } : { kind: 'role', role: proposed.role }
      return withStep(song, place, 'compressor', { thresholdDecibels: proposed.thresholdDecibels, ratio: proposed.ratio }, makeId, 'last')
    }
    case 'reverb':
      return setSpace(song, { spaceId: proposed.spaceId, settings: { decaySeconds: proposed.decaySeconds, preDelaySeconds: proposed.preDelaySeconds } })
    case 'ride':
      return setRide(song, { layerId: proposed.layerId, of: { kind: 'level' }, points: proposed.points })
  }
}

/** What of a song stands where a proposal would put it already. */
export function isTaken(song: Song, proposed: Proposed): boolean {
  return JSON.stringify(bareOf(takeProposal(song, proposed, () => 'new'))) === JSON.stringify(bareOf(song))
}

function bareOf({ layers, buses, vocalBus, spaces }: Song): unknown {
  return { layers: layers.map(({ gainDecibels, ride, recipe }) => ({ gainDecibels, ride, recipe })), buses, vocalBus, spaces }
}

function withStep(song: Song, place: RecipePlace, kind: StepKind, settings: Record<string, number>, makeId: () => string, where: 'first' | 'last'): Song {
  const known = recipeAt(song, place).steps.find(step => step.kind === kind)
  const added = known ? song : addStep(song, { place, kind, makeId })
  const { steps } = recipeAt(added, place)
  const { id } = known ?? steps[steps.length - 1]
  const placed = !known && where === 'first' ? moveStep(added, { place, stepId: id, by: -steps.length }) : added
  return setStep(placed, { place, stepId: id, settings })
}

function clamp(value: number, low: number, high: number): number {
  return Math.max(low, Math.min(high, value))
}

function tenth(value: number): number {
  return Math.round(10 * value) / 10
}
