/** What a room wants to hear: a song made from the song. */
import { clearRange, wholePick } from '../comp/picks'
import { GAIN_RANGE_DECIBELS } from '../song/fields'
import { NO_ROOM } from '../song/beat-room'
import type { MixId } from '../song/kept-mix-schema'
import type { Recipe, SpaceId, StepId } from '../song/mix-schema'
import type { EditId, MendKind, TakeEdits } from '../song/edit-schema'
import type { CompId, Layer, LayerId, Pick, Reference, Song, Take, TakeId } from '../song/schema'
import { currentComp, requireTake, type FrameRange } from '../song/select'
import { EMPTY_RECIPE } from '../song/usual-mix'
import { guidesOf } from './guides'
import { withMixValues } from './kept-mixes'
import { playing } from './playing'
import type { RecipePlace } from './recipes'

/** With what a layer is heard. */
export type Company = 'alone' | 'beat' | 'stack'

/** What is heard: the song as it is, or a take, a comp or a few layers in its place. */
export type View =
  | { kind: 'song' }
  /** With `within`, the take stands for the comp only there. `standby` names takes that may be asked for next. */
  | { kind: 'audition'; layerId: LayerId; takeId: TakeId; with: Company; gainDecibels: number; within?: FrameRange; standby?: readonly TakeId[] }
  /** One of a layer's comps instead of its current one. */
  | { kind: 'comp'; layerId: LayerId; compId: CompId; with: Company; standby?: readonly TakeId[] }
  /** No recipe of any layer, role, of all voices or of the whole mix; or none where `place` says, or without one step of it. */
  | { kind: 'without-recipe'; gainDecibels: number; place?: RecipePlace; stepId?: StepId }
  /** A mix that was kept. */
  | { kind: 'mix'; mixId: MixId; gainDecibels: number }
  /** The song that the mix is held against, by itself. */
  | { kind: 'reference'; gainDecibels: number }
  /** A layer without what is laid over it: neither tidied nor tuned nor edited. */
  | { kind: 'as-sung'; layerId: LayerId; gainDecibels: number }
  /** A layer without one thing that is laid over it. */
  | { kind: 'without'; layerId: LayerId; gainDecibels: number; laid: LaidThing }
  /** Only what a space answers to the voices. */
  | { kind: 'space'; spaceId: SpaceId }
  /** Only these sound, at their own levels: the beat, or this layer, to sing over. */
  | { kind: 'only'; beat: boolean; layerIds: readonly LayerId[] }
  /**
   * To sing over, as loud as the singer likes it in the headphones: the beat; the layer's comp, which is silent where it is recorded
   * anew; the lead or all other layers; and where the comp is silent, the layer's part, from the lead's own voice or as a tone, with its
   * first note once before each entry.
   */
  | {
      kind: 'booth'
      layerId: LayerId | null
      hear: 'beat' | 'comp' | 'lead' | 'stack'
      guide: 'voice' | 'tone' | 'off'
      recorded: FrameRange | null
      decibels: { beat: number; comp: number; others: number; guide: number }
    }

/** A mend of the layer's policy, edits of takes, or what a note is drawn to. */
export type LaidThing =
  | { kind: 'mend'; takeId: TakeId; mend: { kind: MendKind; startFrame: number } }
  | { kind: 'edits'; takeIds: readonly TakeId[]; editIds: readonly EditId[] }
  /** In frames of the take's asset. */
  | { kind: 'note'; takeId: TakeId; note: FrameRange }

export interface Heard {
  song: Song
  /** The voices themselves are heard, and not only what spaces answer to them. */
  isDryHeard: boolean
  /** Takes whose sound is kept at hand, because any of them may be asked for next. */
  standby: readonly TakeId[]
}

/** A view of what is no longer in the song is the song: an undone step may have taken a take, a comp, a layer or a space with it. */
export function heardSong(song: Song, view: View): Heard {
  const { beat, layers } = song
  const isAnySoloed = beat.soloed || layers.some(layer => layer.soloed)
  const isAudible = (part: { muted: boolean; soloed: boolean }) => !part.muted && (!isAnySoloed || part.soloed)
  const whole: Heard = { song, isDryHeard: true, standby: [] }
  switch (view.kind) {
    case 'song':
      return whole
    case 'without-recipe':
      return { ...whole, song: view.place ? withoutRecipeAt(song, view.place, view) : withoutRecipes(song, view.gainDecibels) }
    case 'mix': {
      const mix = song.mixes.find(({ id }) => id === view.mixId)
      if (!mix) return whole
      // As loud as the mix that it is compared with: both of its sides alike.
      const mixed = withMixValues(song, mix.values)
      return { ...whole, song: { ...mixed, beat: louder(mixed.beat, view.gainDecibels), vocalBus: louder(mixed.vocalBus, view.gainDecibels) } }
    }
    case 'reference':
      return { ...whole, song: song.reference ? referenceAlone(song, song.reference, view.gainDecibels) : song }
    case 'as-sung':
      return { ...whole, song: { ...song, layers: layers.map(layer => (layer.id === view.layerId ? louder(asSung(layer), view.gainDecibels) : layer)) } }
    case 'without': {
      const bare = withoutLaid(song, view.laid)
      return { ...whole, song: { ...bare, layers: bare.layers.map(layer => (layer.id === view.layerId ? louder(layer, view.gainDecibels) : layer)) } }
    }
    case 'only':
      return { ...whole, song: soundingOnly(song, view.beat, layer => view.layerIds.includes(layer.id)) }
    case 'space': {
      if (!song.spaces.some(space => space.id === view.spaceId)) return whole
      const spaces = song.spaces.map(space => (space.id === view.spaceId ? space : { ...space, gainDecibels: GAIN_RANGE_DECIBELS.min }))
      return { ...whole, song: { ...soundingOnly(song, false, isAudible), spaces }, isDryHeard: false }
    }
    case 'booth': {
      const { layerId, hear, decibels } = view
      const isBeside = (layer: Layer) => (hear === 'stack' && !layer.muted) || (hear === 'lead' && layer.role === 'lead')
      const isHeard = (layer: Layer) => hear !== 'beat' && (layer.id === layerId || isBeside(layer))
      const sounding = soundingOnly(song, true, isHeard)
      return {
        ...whole,
        song: {
          ...sounding,
          beat: louder(sounding.beat, decibels.beat),
          layers: sounding.layers.flatMap(layer => {
            if (layer.id !== layerId) return [louder(layer, decibels.others)]
            const own = withoutRange(layer, view.recorded)
            const guides = view.guide === 'off' ? [] : guidesOf(song, own, view.guide)
            return [louder(own, decibels.comp), ...guides.map(guide => louder(guide, decibels.guide))]
          }),
        },
      }
    }
    case 'audition':
    case 'comp': {
      const takeIds = new Set(song.takes.map(take => take.id))
      const layer = layers.find(entry => entry.id === view.layerId)
      const isThere = view.kind === 'audition' ? takeIds.has(view.takeId) : layer?.comps.some(comp => comp.id === view.compId)
      if (!layer || !isThere) return whole
      const sounding = soundingOnly(song, view.with !== 'alone', other => other.id === layer.id || (view.with === 'stack' && isAudible(other)))
      const put = (other: Layer): Layer => {
        if (other.id !== layer.id) return other
        return view.kind === 'comp' ? { ...other, currentCompId: view.compId } : playing(other, auditioned(song, other, view))
      }
      return { ...whole, song: { ...sounding, layers: sounding.layers.map(put) }, standby: (view.standby ?? []).filter(id => takeIds.has(id)) }
    }
  }
}

/** Mutes and solos as if only these had ever been heard; a part is as it is before what the whole mix goes through. */
function soundingOnly(song: Song, isBeatHeard: boolean, isHeard: (layer: Layer) => boolean): Song {
  const only = <P extends { muted: boolean; soloed: boolean }>(part: P, sounds: boolean): P => ({ ...part, muted: !sounds, soloed: false })
  return { ...beforeWhole(song), beat: only(song.beat, isBeatHeard), layers: song.layers.map(layer => only(layer, isHeard(layer))) }
}

/** Without what voices and beat go through together. */
export function beforeWhole(song: Song): Song {
  return song.output.recipe.steps.length > 0 ? { ...song, output: { ...song.output, recipe: EMPTY_RECIPE } } : song
}

function withoutRecipes(song: Song, gainDecibels: number): Song {
  const off = <P extends { recipe: Recipe }>(part: P): P => ({ ...part, recipe: { ...part.recipe, enabled: false } })
  return { ...beforeWhole(song), layers: song.layers.map(off), buses: song.buses.map(off), vocalBus: louder(off(song.vocalBus), gainDecibels) }
}

/** @param without Only one step of it, if one is named. */
function withoutRecipeAt(song: Song, place: RecipePlace, without: { gainDecibels: number; stepId?: StepId }): Song {
  const off = changedRecipe(song, place, recipe =>
    without.stepId
      ? { ...recipe, steps: recipe.steps.map(step => (step.id === without.stepId ? { ...step, enabled: false } : step)) }
      : { ...recipe, enabled: false },
  )
  const mixed = { ...off, vocalBus: louder(off.vocalBus, without.gainDecibels) }
  return place.kind === 'mix' ? { ...mixed, beat: louder(off.beat, without.gainDecibels) } : mixed
}

function changedRecipe(song: Song, place: RecipePlace, change: (recipe: Recipe) => Recipe): Song {
  const changed = <P extends { recipe: Recipe }>(part: P): P => ({ ...part, recipe: change(part.recipe) })
  switch (place.kind) {
    case 'mix':
      return { ...song, output: changed(song.output) }
    case 'all':
      return { ...song, vocalBus: changed(song.vocalBus) }
    case 'role':
      return { ...song, buses: song.buses.map(bus => (bus.role === place.role ? changed(bus) : bus)) }
    case 'layer':
      return { ...song, layers: song.layers.map(layer => (layer.id === place.layerId ? changed(layer) : layer)) }
  }
}

/** One piece of it for as long as it is asked for: what plays it is laid once. */
const referencePieces = new WeakMap<Reference, Song['beat']['pieces']>()

function referenceAlone(song: Song, reference: Reference, gainDecibels: number): Song {
  const { assetId, frames } = reference
  const pieces = referencePieces.get(reference) ?? [{ startFrame: 0, sourceFrame: 0, frames, muted: false }]
  referencePieces.set(reference, pieces)
  const alone = soundingOnly(song, true, () => false)
  return { ...alone, beat: { ...alone.beat, assetId, pieces, treatments: NO_TREATMENTS, frames, sourceFrames: frames, gainDecibels, pan: 0, room: NO_ROOM } }
}

const NO_TREATMENTS: Song['beat']['treatments'] = []

function asSung(layer: Layer): Layer {
  const bare = { ...layer, tidy: null, tune: null, together: null }
  return playing(
    bare,
    currentComp(layer).picks.map(pick => ({ ...pick, asSung: true })),
  )
}

/** Locked or not: it is only heard so. */
function withoutLaid(song: Song, laid: LaidThing): Song {
  const stays = ({ id }: { id: EditId }) => laid.kind !== 'edits' || !laid.editIds.includes(id)
  const bared = (take: Take): Take => {
    const { edits } = take
    if (laid.kind === 'edits') {
      if (!laid.takeIds.includes(take.id)) return take
      return { ...take, edits: { ...edits, gains: edits.gains.filter(stays), notes: edits.notes.filter(stays), times: edits.times.filter(stays) } }
    }
    if (laid.takeId !== take.id) return take
    if (laid.kind === 'note') return { ...take, edits: { ...edits, notes: withNoteAsSung(edits.notes, laid.note) } }
    const { kind, startFrame } = laid.mend
    const others = edits.mends.filter(mend => mend.kind !== kind || mend.startFrame !== startFrame)
    return { ...take, edits: { ...edits, mends: [...others, { kind, startFrame, decibels: null }] } }
  }
  return { ...song, takes: song.takes.map(bared) }
}

function withNoteAsSung(notes: TakeEdits['notes'], note: FrameRange): TakeEdits['notes'] {
  const others = notes.filter(({ startFrame, endFrame }) => endFrame <= note.startFrame || startFrame >= note.endFrame)
  return [...others, { ...note, id: 'as sung' as EditId, shiftCents: 0, rungCents: null }].sort((a, b) => a.startFrame - b.startFrame)
}

/** What is off stays off. */
function louder<P extends { gainDecibels: number }>(part: P, decibels: number): P {
  const off = GAIN_RANGE_DECIBELS.min
  return { ...part, gainDecibels: Math.min(part.gainDecibels, decibels) <= off ? off : part.gainDecibels + decibels }
}

/** By the picks that were cut: as long as one stretch is sung anew, what is left is the same. */
const knownRests = new WeakMap<readonly Pick[], { range: FrameRange; layer: Layer; rest: Layer }>()

function withoutRange(layer: Layer, range: FrameRange | null): Layer {
  if (!range) return layer
  const { picks } = currentComp(layer)
  const known = knownRests.get(picks)
  const isKnown = known && known.range.startFrame === range.startFrame && known.range.endFrame === range.endFrame && known.layer.comps === layer.comps
  if (isKnown) return { ...layer, comps: known.rest.comps }
  const cut = clearRange(picks, range, () => 'after')
  const rest = playing(layer, cut)
  knownRests.set(picks, { range, layer, rest })
  return rest
}

function auditioned(song: Song, layer: Layer, { takeId, gainDecibels, within }: Extract<View, { kind: 'audition' }>): Pick[] {
  const tried = { ...wholePick(requireTake(song, takeId), gainDecibels), ...within }
  if (!within) return [tried]
  return [...clearRange(currentComp(layer).picks, tried, () => 'after'), tried].sort((a, b) => a.startFrame - b.startFrame)
}
