/** The flat plan of what sounds: made from the document, read by the renderer. */
import { decibelsToGain } from '../audio/decibels'
import { spansOfBeat } from './beat-spans'
import type { Step } from '../effects/chain'
import { stepsOf } from './recipes'
import type { SpaceId } from '../song/mix-schema'
import type { AssetId, CompId, Layer, LayerId, Pick, PickId, Role, Song, Take, TakeId } from '../song/schema'
import { GAIN_RANGE_DECIBELS } from '../song/schema'
import { clearRange, runsOn } from '../comp/picks'
import { currentComp, requireTake, type FrameRange } from '../song/select'
import type { Lane } from './lane'
import { settingsOfSpace, type SpaceSettings } from './spaces'
import type { Span } from './spans'

const NO_STEPS: readonly Step[] = []

/** Spans of picks and pieces that have not changed since: most plans differ in a level only, and then these are the same arrays. */
const knownPicks = new WeakMap<readonly Pick[], { takes: Song['takes']; spans: Span[] }>()
const knownPieces = new WeakMap<Song['beat']['pieces'], { treatments: Song['beat']['treatments']; assetId: AssetId; spans: Span[] }>()

function rememberedSpans(picks: readonly Pick[], song: Song): Span[] {
  const known = knownPicks.get(picks)
  if (known?.takes === song.takes) return known.spans
  const spans = spansOfPicks(picks, song)
  knownPicks.set(picks, { takes: song.takes, spans })
  return spans
}

function rememberedBeat({ pieces, treatments, assetId }: Song['beat']): Span[] {
  const known = knownPieces.get(pieces)
  if (known?.treatments === treatments && known.assetId === assetId) return known.spans
  const spans = spansOfBeat({ pieces, treatments, assetId })
  knownPieces.set(pieces, { treatments, assetId, spans })
  return spans
}

export interface Channel {
  /** The layer, or "beat". */
  id: LayerId | 'beat'
  /** In time order of their starts; at a seam two overlap. */
  spans: Span[]
  /** What it goes through by itself, before its level. */
  steps: readonly Step[]
  gain: number
  /** Times the gain, over the song. */
  ride: Lane
  pan: number
  /** Into each of the plan's spaces, after gain and pan. */
  sends: readonly number[]
  /** Its role's bus is what it goes into; the beat has none. */
  role: Role | null
}

/** What the layers of a role go through together. */
export interface RoleBus {
  role: Role
  steps: readonly Step[]
  gain: number
}

export interface SpacePlan {
  id: SpaceId
  settings: SpaceSettings
  gain: number
}

/** Layers go into their role's bus, or straight to all voices where that has no steps; spaces answer to all voices; the beat comes last. */
export interface MixPlan {
  layers: Channel[]
  beat: Channel
  /** Nothing of these sounds, but any of them may at the next moment: their sound is kept at hand. */
  standby: Span[]
  /** Only those with steps: the level of any other is in its layers. */
  buses: readonly RoleBus[]
  vocalGain: number
  /** What all voices go through together; none: they pass unchanged. */
  vocalSteps: readonly Step[]
  /** Of the voices before the spaces answer: 1, or 0 to hear spaces alone. */
  dry: number
  spaces: readonly SpacePlan[]
  ceiling: number
  /** Where the last sound ends; tails come after. */
  endFrame: number
  /** Of all that goes through buses together, only what these layers have their part in comes out: stems, which sum to the mix. */
  stem?: readonly LayerId[]
}

/** With what a layer is heard. */
export type Company = 'alone' | 'beat' | 'stack'

/** What the plan plays: the song as it is, or a take, a comp or a few layers in its place. */
export type View =
  | { kind: 'song' }
  /** With `within`, the take stands for the comp only there. `standby` names takes that may be asked for next. */
  | { kind: 'audition'; layerId: LayerId; takeId: TakeId; with: Company; gainDecibels: number; within?: FrameRange; standby?: readonly TakeId[] }
  /** One of a layer's comps instead of its current one. */
  | { kind: 'comp'; layerId: LayerId; compId: CompId; with: Company; standby?: readonly TakeId[] }
  /** No recipe of any layer, role or of all voices. */
  | { kind: 'without-recipe'; gainDecibels: number }
  /** Only what a space answers to the voices. */
  | { kind: 'space'; spaceId: SpaceId }
  /** Only these sound, at their own levels: the beat, or this layer, to sing over. */
  | { kind: 'only'; beat: boolean; layerIds: readonly LayerId[] }
  /**
   * To sing over, as loud as the singer likes it in the headphones: the beat; the layer's comp, which is silent where it is recorded
   * anew; the other layers.
   */
  | {
      kind: 'booth'
      layerId: LayerId | null
      hear: 'beat' | 'comp' | 'stack'
      recorded: FrameRange | null
      decibels: { beat: number; comp: number; others: number }
    }

/** Crossfade between neighbouring picks. */
export const SEAM_FRAMES = 960
/** Fade where a pick meets silence. */
const EDGE_FADE_FRAMES = 240

export function planMix(song: Song, wanted: View = { kind: 'song' }): MixPlan {
  const view = presentView(song, wanted)
  const anySolo = song.beat.soloed || song.layers.some(layer => layer.soloed)
  const audible = (part: { muted: boolean; soloed: boolean }) => !part.muted && (!anySolo || part.soloed)
  const bypassed = view.kind === 'without-recipe'
  const buses = new Map(
    song.buses.map(({ role, gainDecibels, recipe }) => [role, { role, steps: bypassed ? NO_STEPS : stepsOf(recipe), gain: gainOf(gainDecibels) }]),
  )
  const layers = song.layers.map((layer): Channel => {
    const isAudible = sounds(layer, view, audible)
    const picked = rememberedSpans(picksPlayed(layer, view), song)
    const punched = view.kind === 'booth' && view.layerId === layer.id && view.recorded ? outsideOf(picked, view.recorded) : picked
    const headphoneGain = view.kind === 'booth' ? gainOf(view.layerId === layer.id ? view.decibels.comp : view.decibels.others) : 1
    const bus = buses.get(layer.role)
    // A bus with steps has its level after them; what goes into the spaces has it all the same.
    const [ownGain, sendGain] = bus && bus.steps.length > 0 ? [1, bus.gain] : [bus?.gain ?? 1, 1]
    return {
      id: layer.id,
      role: layer.role,
      steps: bypassed ? NO_STEPS : stepsOf(layer.recipe),
      spans:
        view.kind === 'audition' && view.layerId === layer.id && !view.within
          ? [spanOfTake(requireTake(song, view.takeId), gainOf(view.gainDecibels))]
          : punched,
      gain: isAudible ? gainOf(layer.gainDecibels) * ownGain * headphoneGain : 0,
      ride: layer.ride,
      pan: layer.pan,
      sends: song.spaces.map(space => gainOf(layer.sends.find(send => send.spaceId === space.id)?.gainDecibels ?? GAIN_RANGE_DECIBELS.min) * sendGain),
    }
  })
  const isBeatAudible =
    view.kind === 'audition' || view.kind === 'comp'
      ? view.with !== 'alone'
      : view.kind === 'only'
        ? view.beat
        : view.kind !== 'space' && (view.kind === 'booth' || audible(song.beat))
  const beat: Channel = {
    id: 'beat',
    role: null,
    steps: NO_STEPS,
    ride: [],
    spans: rememberedBeat(song.beat),
    gain: isBeatAudible ? gainOf(song.beat.gainDecibels) * (view.kind === 'booth' ? gainOf(view.decibels.beat) : 1) : 0,
    pan: song.beat.pan,
    sends: [],
  }
  const ends = [beat, ...layers].filter(channel => channel.gain > 0).flatMap(channel => channel.spans.map(span => span.endFrame))
  return {
    layers,
    beat,
    standby: view.kind === 'audition' || view.kind === 'comp' ? (view.standby ?? []).map(id => spanOfTake(requireTake(song, id), 1)) : [],
    vocalGain: gainOf(song.vocalBus.gainDecibels + (bypassed ? view.gainDecibels : 0)),
    vocalSteps: bypassed ? NO_STEPS : stepsOf(song.vocalBus.recipe),
    buses: [...buses.values()].filter(bus => bus.steps.length > 0),
    dry: view.kind === 'space' ? 0 : 1,
    spaces: song.spaces.map(space => ({
      id: space.id,
      settings: settingsOfSpace(space, song.beat.grid),
      gain: view.kind === 'space' && view.spaceId !== space.id ? 0 : gainOf(space.gainDecibels),
    })),
    ceiling: decibelsToGain(song.output.ceilingDbfs),
    endFrame: ends.reduce((latest, end) => Math.max(latest, end), 0),
  }
}

/** The view without what is no longer in the song: an undone step may have taken a take, a comp or a layer with it. */
function presentView(song: Song, view: View): View {
  if (view.kind === 'space') return song.spaces.some(space => space.id === view.spaceId) ? view : { kind: 'song' }
  if (view.kind !== 'audition' && view.kind !== 'comp') return view
  const takeIds = new Set(song.takes.map(take => take.id))
  const layer = song.layers.find(entry => entry.id === view.layerId)
  const isThere = view.kind === 'audition' ? takeIds.has(view.takeId) : layer?.comps.some(comp => comp.id === view.compId)
  return layer && isThere ? { ...view, standby: (view.standby ?? []).filter(id => takeIds.has(id)) } : { kind: 'song' }
}

function sounds(layer: Layer, view: View, audible: (part: Layer) => boolean): boolean {
  if (view.kind === 'audition' || view.kind === 'comp') return view.layerId === layer.id || (view.with === 'stack' && audible(layer))
  if (view.kind === 'only') return view.layerIds.includes(layer.id)
  if (view.kind === 'booth') return view.hear !== 'beat' && (view.layerId === layer.id || (view.hear === 'stack' && !layer.muted))
  return audible(layer)
}

/** -60 dB and below is off. */
function gainOf(decibels: number): number {
  return decibels <= GAIN_RANGE_DECIBELS.min ? 0 : decibelsToGain(decibels)
}

function picksPlayed(layer: Layer, view: View): readonly Pick[] {
  const current = currentComp(layer).picks
  if (view.kind === 'comp' && view.layerId === layer.id) return layer.comps.find(comp => comp.id === view.compId)?.picks ?? current
  if (view.kind !== 'audition' || view.layerId !== layer.id || !view.within) return current
  const tried: Pick = {
    id: 'tried' as PickId,
    takeId: view.takeId,
    ...view.within,
    gainDecibels: view.gainDecibels,
    levelMatched: false,
    nudgeFrames: 0,
    seam: null,
    split: false,
  }
  return [...clearRange(current, tried, () => 'after'), tried].sort((a, b) => a.startFrame - b.startFrame)
}

function spanOfTake(take: Take, gain: number): Span {
  return {
    assetId: take.assetId,
    originFrame: take.originFrame,
    startFrame: take.startFrame,
    endFrame: take.endFrame,
    gain,
    fadeInFrames: EDGE_FADE_FRAMES,
    fadeOutFrames: EDGE_FADE_FRAMES,
  }
}

/**
 * Where two picks meet both sound for the length of the seam, as far as their takes reach; elsewhere a pick fades inside its own
 * edges. A cut within one take is not heard.
 */
export function spansOfPicks(cut: readonly Pick[], song: Song): Span[] {
  const picks = cut.reduce<Pick[]>((joined, pick) => {
    const last = joined.at(-1)
    if (last && runsOn(last, pick)) joined[joined.length - 1] = { ...last, endFrame: pick.endFrame }
    else joined.push(pick)
    return joined
  }, [])
  return picks.map((pick, i) => {
    const take = requireTake(song, pick.takeId)
    const next = picks[i + 1]
    const before = picks[i - 1]?.endFrame === pick.startFrame ? seamFrames(song, picks[i - 1], pick) : 0
    const after = next?.startFrame === pick.endFrame ? seamFrames(song, pick, next) : 0
    const room = pick.endFrame - pick.startFrame
    return {
      assetId: take.assetId,
      originFrame: take.originFrame + pick.nudgeFrames,
      startFrame: pick.startFrame - before / 2,
      endFrame: pick.endFrame + after / 2,
      gain: decibelsToGain(pick.gainDecibels),
      fadeInFrames: before > 0 ? before : Math.min(EDGE_FADE_FRAMES, room >> 1),
      fadeOutFrames: after > 0 ? after : Math.min(EDGE_FADE_FRAMES, room >> 1),
      ...(before > 0 && pick.seam?.alike ? { alikeIn: true } : {}),
      ...(after > 0 && next?.seam?.alike ? { alikeOut: true } : {}),
    }
  })
}

/** What of the spans lies outside a range: cut at its edges, each cut with a short fade. */
function outsideOf(spans: readonly Span[], range: FrameRange): Span[] {
  return spans.flatMap(span => {
    const before = {
      ...span,
      endFrame: Math.min(span.endFrame, range.startFrame),
      fadeOutFrames: span.endFrame > range.startFrame ? EDGE_FADE_FRAMES : span.fadeOutFrames,
    }
    const after = {
      ...span,
      startFrame: Math.max(span.startFrame, range.endFrame),
      fadeInFrames: span.startFrame < range.endFrame ? EDGE_FADE_FRAMES : span.fadeInFrames,
    }
    const isSound = (part: Span) => part.endFrame - part.startFrame > part.fadeInFrames + part.fadeOutFrames
    return [before, ...(after.startFrame > before.startFrame ? [after] : [])].filter(isSound)
  })
}

/** The even length of the seam between two picks that meet: shorter where a take ends near, and no longer than either pick. */
function seamFrames(song: Song, before: Pick, after: Pick): number {
  const half = (after.seam?.frames ?? SEAM_FRAMES) / 2
  const [out, into] = [before, after].map(pick => requireTake(song, pick.takeId))
  const reach = [
    out.endFrame + before.nudgeFrames - before.endFrame,
    (before.endFrame - before.startFrame) / 2,
    after.startFrame - (into.startFrame + after.nudgeFrames),
    (after.endFrame - after.startFrame) / 2,
  ]
  return 2 * Math.floor(Math.max(0, Math.min(half, ...reach)))
}
