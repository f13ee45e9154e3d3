/** The flat plan of what sounds: made from the document, read by the renderer. */
import { decibelsToGain } from '../audio/decibels'
import { spansOfBeat } from './beat-spans'
import type { AssetId, Layer, LayerId, Pick, Recipe, Song, Space, Take, TakeId } from '../song/schema'
import { GAIN_RANGE_DECIBELS } from '../song/schema'
import { currentComp, requireTake, type FrameRange } from '../song/select'

/** A stretch of one asset that sounds from startFrame to endFrame of the song, faded at both ends. */
export interface Span extends FrameRange {
  assetId: AssetId
  /** Asset frame = song frame - originFrame. */
  originFrame: number
  gain: number
  fadeInFrames: number
  fadeOutFrames: number
  /** Fades add up to 1 in amplitude instead of in power: for two sounds that are alike where they cross. */
  alike?: boolean
}

export interface Channel {
  /** The layer, or "beat". */
  id: LayerId | 'beat'
  /** In time order of their starts; at a seam two overlap. */
  spans: Span[]
  gain: number
  pan: number
  /** Into the space, after gain and pan. */
  send: number
}

export interface MixPlan {
  layers: Channel[]
  beat: Channel
  vocalGain: number
  /** null: the voices pass unchanged. */
  recipe: Recipe | null
  space: Space
  spaceGain: number
  ceiling: number
  /** Where the last sound ends; tails come after. */
  endFrame: number
}

/** What is heard: the song, or one take of one layer instead of that layer's comp. */
export type View =
  | { kind: 'song' }
  | { kind: 'audition'; layerId: LayerId; takeId: TakeId; with: 'alone' | 'beat' | 'stack'; gainDecibels: number }
  | { kind: 'without-recipe'; gainDecibels: number }
  /** Only these sound, at their own levels: the beat, or this layer, to sing over. */
  | { kind: 'only'; beat: boolean; layerIds: readonly LayerId[] }
  /** To sing over, as loud as the singer likes it in the headphones: the beat; the layer's comp, which is silent where it is recorded anew; the other layers. */
  | { kind: 'booth'; layerId: LayerId | null; hear: 'beat' | 'comp' | 'stack'; recorded: FrameRange | null; decibels: { beat: number; comp: number; others: number } }

/** Crossfade between neighbouring picks. */
export const SEAM_FRAMES = 960
/** Fade where a pick meets silence. */
const EDGE_FADE_FRAMES = 240

export function planMix(song: Song, view: View = { kind: 'song' }): MixPlan {
  const anySolo = song.beat.soloed || song.layers.some(layer => layer.soloed)
  const audible = (part: { muted: boolean; soloed: boolean }) => !part.muted && (!anySolo || part.soloed)
  const busGain = (layer: Layer) => gainOf(song.buses.find(bus => bus.role === layer.role)?.gainDecibels ?? 0)
  const layers = song.layers.map((layer): Channel => {
    const heard = isLayerHeard(layer, view, audible)
    const auditioned = view.kind === 'audition' && view.layerId === layer.id
    const picked = spansOfPicks(currentComp(layer).picks, song)
    const punched = view.kind === 'booth' && view.layerId === layer.id && view.recorded ? outsideOf(picked, view.recorded) : picked
    const headphoneGain = view.kind === 'booth' ? gainOf(view.layerId === layer.id ? view.decibels.comp : view.decibels.others) : 1
    return {
      id: layer.id,
      spans: auditioned ? [spanOfTake(requireTake(song, view.takeId), gainOf(view.gainDecibels))] : punched,
      gain: heard ? gainOf(layer.gainDecibels) * busGain(layer) * headphoneGain : 0,
      pan: layer.pan,
      send: gainOf(layer.sendDecibels),
    }
  })
  const beatHeard = view.kind === 'audition' ? view.with !== 'alone' : view.kind === 'only' ? view.beat : view.kind === 'booth' || audible(song.beat)
  const beat: Channel = {
    id: 'beat',
    spans: spansOfBeat(song.beat),
    gain: beatHeard ? gainOf(song.beat.gainDecibels) * (view.kind === 'booth' ? gainOf(view.decibels.beat) : 1) : 0,
    pan: song.beat.pan,
    send: 0,
  }
  const bypassed = view.kind === 'without-recipe'
  const ends = [beat, ...layers].filter(channel => channel.gain > 0).flatMap(channel => channel.spans.map(span => span.endFrame))
  return {
    layers,
    beat,
    vocalGain: gainOf(song.vocalBus.gainDecibels + (bypassed ? view.gainDecibels : 0)),
    recipe: bypassed || !song.vocalBus.recipe.enabled ? null : song.vocalBus.recipe,
    space: song.space,
    spaceGain: gainOf(song.space.gainDecibels),
    ceiling: decibelsToGain(song.output.ceilingDbfs),
    endFrame: ends.reduce((latest, end) => Math.max(latest, end), 0),
  }
}

/** The plan of a delivery: all of it, only the voices, or only the beat, regardless of nothing but the song's own mutes. */
export function planDelivery(song: Song, part: 'mix' | 'vocals' | 'beat'): MixPlan {
  const plan = planMix(song)
  const silent = (channel: Channel): Channel => ({ ...channel, gain: 0 })
  const layers = part === 'beat' ? plan.layers.map(silent) : plan.layers
  const beat = part === 'vocals' ? silent(plan.beat) : plan.beat
  const ends = [beat, ...layers].filter(channel => channel.gain > 0).flatMap(channel => channel.spans.map(span => span.endFrame))
  return { ...plan, layers, beat, endFrame: ends.reduce((latest, end) => Math.max(latest, end), 0) }
}

function isLayerHeard(layer: Layer, view: View, audible: (part: Layer) => boolean): boolean {
  if (view.kind === 'audition') return view.layerId === layer.id || (view.with === 'stack' && audible(layer))
  if (view.kind === 'only') return view.layerIds.includes(layer.id)
  if (view.kind === 'booth') return view.hear !== 'beat' && (view.layerId === layer.id || (view.hear === 'stack' && !layer.muted))
  return audible(layer)
}

/** -60 dB and below is off. */
function gainOf(decibels: number): number {
  return decibels <= GAIN_RANGE_DECIBELS.min ? 0 : decibelsToGain(decibels)
}

function spanOfTake(take: Take, gain: number): Span {
  return { assetId: take.assetId, originFrame: take.originFrame, startFrame: take.startFrame, endFrame: take.endFrame, gain, fadeInFrames: EDGE_FADE_FRAMES, fadeOutFrames: EDGE_FADE_FRAMES }
}

/** Where two picks meet both sound for the length of the seam, as far as their takes reach; elsewhere a pick fades inside its own edges. */
function spansOfPicks(picks: readonly Pick[], song: Song): Span[] {
  return picks.map((pick, i) => {
    const take = requireTake(song, pick.takeId)
    const meets = (other: Pick | undefined, edge: 'startFrame' | 'endFrame') =>
      other !== undefined && other[edge === 'startFrame' ? 'endFrame' : 'startFrame'] === pick[edge] ? seamFrames(song, pick, other, pick[edge]) : 0
    const before = meets(picks[i - 1], 'startFrame')
    const after = meets(picks[i + 1], 'endFrame')
    const room = pick.endFrame - pick.startFrame
    return {
      assetId: take.assetId,
      originFrame: take.originFrame + pick.nudgeFrames,
      startFrame: pick.startFrame - before / 2,
      endFrame: pick.endFrame + after / 2,
      gain: decibelsToGain(pick.gainDecibels),
      fadeInFrames: before > 0 ? before : Math.min(EDGE_FADE_FRAMES, room >> 1),
      fadeOutFrames: after > 0 ? after : Math.min(EDGE_FADE_FRAMES, room >> 1),
    }
  })
}

/** What of the spans lies outside a range: cut at its edges, each cut with a short fade. */
function outsideOf(spans: readonly Span[], range: FrameRange): Span[] {
  return spans.flatMap(span => {
    const before = { ...span, endFrame: Math.min(span.endFrame, range.startFrame), fadeOutFrames: span.endFrame > range.startFrame ? EDGE_FADE_FRAMES : span.fadeOutFrames }
    const after = { ...span, startFrame: Math.max(span.startFrame, range.endFrame), fadeInFrames: span.startFrame < range.endFrame ? EDGE_FADE_FRAMES : span.fadeInFrames }
    const isSound = (part: Span) => part.endFrame - part.startFrame > part.fadeInFrames + part.fadeOutFrames
    return [before, ...(after.startFrame > before.startFrame ? [after] : [])].filter(isSound)
  })
}

/** The seam's even length at a frame where two picks meet: shorter where a take ends near, and no longer than either pick. */
function seamFrames(song: Song, pick: Pick, other: Pick, frame: number): number {
  const reach = [pick, other].map(side => {
    const take = requireTake(song, side.takeId)
    const outward = side.startFrame === frame ? frame - (take.startFrame + side.nudgeFrames) : take.endFrame + side.nudgeFrames - frame
    return Math.min(outward, (side.endFrame - side.startFrame) / 2)
  })
  return 2 * Math.max(0, Math.min(SEAM_FRAMES / 2, ...reach.map(Math.floor)))
}
