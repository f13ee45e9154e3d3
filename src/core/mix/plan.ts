/** The plan of what sounds: a graph as plain data, made from the document, read by the renderer. */
import { decibelsToGain } from '../audio/decibels'
import { GAIN_RANGE_DECIBELS } from '../song/fields'
import type { Step } from '../effects/chain'
import type { BeatRoom } from '../song/beat-room'
import type { Space } from '../song/mix-schema'
import type { AssetId, Layer, LayerId, Pick, Role, Song, Take } from '../song/schema'
import { currentComp, requireLayer, requireTake } from '../song/select'
import { wholePick } from '../comp/picks'
import { NO_PRINTS, type PrintTable } from '../prints/jobs'
import { spansOfBeat } from './beat-spans'
import { heardSong, type View } from './heard'
import { colourPlansOf } from './colours'
import { farOf } from './far'
import { laneOf, NO_LANE, type Lane } from './lane'
import { spansOfMade } from './made-spans'
import { spansOfPicks } from './pick-spans'
import { stepsOf } from './recipes'
import { echoDelays, settingsOfSpace, type SpaceSettings } from './spaces'
import type { Span } from './spans'
import { thrownOf, type Twin } from './thrown'

/** The bus of a role, or that of all voices. */
export type BusId = Role | 'voices'
export type Goal = BusId | 'output'
/** What has a meter. */
export type MeterId = LayerId | 'beat' | Goal

/** Into a space, after level and place. */
export interface SendPlan {
  gain: number
  /** Times the gain. */
  ride: Lane
}

/** A row of effects that a channel goes through while its share is more than nothing. */
export interface ColourPlan {
  id: string
  steps: readonly Step[]
  /** How much of the channel goes through it, 0..1. */
  share: Lane
}

export interface Channel {
  /** The layer, or "beat". */
  id: LayerId | 'beat'
  /** One voice, placed between left and right; or a stereo sound, balanced. */
  width: 1 | 2
  /** In time order of their starts; at a seam two overlap. */
  spans: Span[]
  /** What it goes through by itself, before its level. */
  steps: readonly Step[]
  /** After them, on stretches of the song. */
  colours: readonly ColourPlan[]
  gain: number
  /** Times the gain, over the song. */
  ride: Lane
  pan: number
  /** In place of `pan`, where it has points. */
  panRide: Lane
  /** Into each of the plan's spaces. */
  sends: readonly SendPlan[]
  into: Goal
}

/** What several voices go through together: a row of effects, the answers of spaces, a level. */
export interface BusPlan {
  id: BusId
  steps: readonly Step[]
  /** Of what comes out of the steps, before spaces answer: 1, or 0 to hear spaces alone. */
  dry: number
  gain: number
  into: Goal
}

export interface SpacePlan {
  /** That of a space, or of its twin for thrown words. */
  id: string
  settings: SpaceSettings
  /** In place of an echo's time, a step at each point; seconds. */
  delays: Lane
  gain: number
  /** Times the gain. Where it is off, what rings is forgotten. */
  ride: Lane
  /** While what goes in sounds by itself, the answer is held down. */
  duck: { decibels: number; releaseSeconds: number }
  /** Whose sound it joins. */
  into: BusId
  /** Another space, by its place in the plan, that the answer goes into as well. None feeds one before it. */
  feeds: { at: number; gain: number } | null
}

/** Layers go into their role's bus, role buses into that of all voices, to which spaces answer; that and the beat go into the output. */
export interface MixPlan {
  channels: Channel[]
  /** None goes into one before it. */
  buses: readonly BusPlan[]
  spaces: readonly SpacePlan[]
  /** How far the beat gives way to all voices. */
  room: BeatRoom
  /** `steps`: what the whole goes through, unless only a part of it is played. `width`: 1 as mixed, 0 in mono. `isSmall`: as out of a small loudspeaker. */
  output: { steps: readonly Step[]; ceiling: number; width: number; isSmall: boolean }
  /** Channels, buses, output: the order in which levels are told. */
  meters: readonly MeterId[]
  /** Nothing of these sounds, but any of them may at the next moment: their sound is kept at hand. */
  standby: Span[]
  /** Where the last sound ends; tails come after. */
  endFrame: number
  /** Of all that goes through buses together, only what these channels have their part in comes out: stems, which sum to the mix. */
  stem?: readonly LayerId[]
  /** Of the spaces, only these answer where it is heard, by their places; the others go on feeding those that they feed. */
  answering?: readonly number[]
}

const VOICES = 'voices'

/**
 * @param prints What is made by now: where a print is missing, the sound that it is made from is played.
 * @param options `inMono`: both sides of the output play their middle; `isSmall`: as out of a small loudspeaker.
 */
export function planMix(asked: Song, view: View = { kind: 'song' }, prints: PrintTable = NO_PRINTS, { inMono = false, isSmall = false } = {}): MixPlan {
  const { song, isDryHeard, standby } = heardSong(asked, view)
  const isAnySoloed = song.beat.soloed || song.layers.some(layer => layer.soloed)
  const levelOf = (part: { muted: boolean; soloed: boolean; gainDecibels: number }) =>
    part.muted || (isAnySoloed && !part.soloed) ? 0 : gainOf(part.gainDecibels)
  const roles = song.buses.map(({ role, gainDecibels, recipe }) => ({ role, steps: stepsOf(recipe), gain: gainOf(gainDecibels) }))
  const { twins, sendOf } = thrownOf(song)
  const spaces = spacesOf(song, twins)
  const layers = song.layers.map((layer): Channel => {
    const bus = roles.find(entry => entry.role === layer.role)
    // A bus with steps has its level after them; what goes into the spaces has it all the same. Without steps, its layers have it.
    const [ownGain, sendGain] = bus && bus.steps.length > 0 ? [1, bus.gain] : [bus?.gain ?? 1, 1]
    const far = farOf(song.stage, layer.distance)
    return {
      id: layer.id,
      width: 1,
      spans: rememberedSpans(layer, song, prints),
      steps: [...stepsOf(layer.recipe), ...far.steps],
      colours: colourPlansOf(song, layer),
      gain: levelOf(layer) * ownGain * far.gain,
      ride: laneOf(layer.ride),
      pan: layer.pan,
      panRide: laneOf(layer.panRide),
      sends: spaces.map(({ space, twin }) => {
        const send = layer.sends.find(entry => entry.spaceId === space.id)
        const ride = twin ? sendOf(layer, twin) : laneOf(send?.ride ?? [])
        const gain = twin ? 0 : gainOf(send?.gainDecibels ?? GAIN_RANGE_DECIBELS.min)
        return { gain: (ride.length > 0 ? 1 : gain) * sendGain * far.sendGain, ride }
      }),
      into: bus ? bus.role : VOICES,
    }
  })
  const beat: Channel = {
    id: 'beat',
    width: 2,
    spans: rememberedBeat(song.beat, prints),
    steps: [],
    colours: [],
    gain: levelOf(song.beat),
    ride: NO_LANE,
    pan: song.beat.pan,
    panRide: NO_LANE,
    sends: [],
    into: 'output',
  }
  const channels = [...layers, beat]
  const buses: BusPlan[] = roles.map(({ role, steps, gain }) => ({ id: role, steps, dry: 1, gain: steps.length > 0 ? gain : 1, into: VOICES }))
  buses.push({
    id: VOICES,
    steps: stepsOf(song.vocalBus.recipe),
    dry: isDryHeard ? 1 : 0,
    gain: gainOf(song.vocalBus.gainDecibels),
    into: 'output',
  })
  const ends = channels.filter(channel => channel.gain > 0).flatMap(channel => channel.spans.map(span => span.endFrame))
  return {
    channels,
    buses,
    spaces: spaces.map(({ space, twin }) => ({
      id: twin ? `${space.id} thrown` : space.id,
      settings: settingsOfSpace(space, song.beat.grid),
      delays: rememberedDelays(space, song.beat),
      gain: gainOf(space.gainDecibels),
      ride: twin?.ride ?? NO_LANE,
      duck: { decibels: space.duckDecibels, releaseSeconds: space.duckReleaseSeconds },
      into: VOICES,
      feeds: space.feeds && {
        at: spaces.findIndex(other => other.space.id === space.feeds!.spaceId && !other.twin),
        gain: gainOf(space.feeds.gainDecibels),
      },
    })),
    room: song.beat.room,
    output: { steps: stepsOf(song.output.recipe), ceiling: decibelsToGain(song.output.ceilingDbfs), width: inMono ? 0 : 1, isSmall },
    meters: [...channels.map(channel => channel.id), ...buses.map(bus => bus.id), 'output'],
    standby: standby.flatMap(id => spansOfTake(requireTake(song, id), song, prints)),
    endFrame: ends.reduce((latest, end) => Math.max(latest, end), 0),
  }
}

/** Every space and its twin, if it has one: those that feed others come before them. */
function spacesOf(song: Song, twins: readonly Twin[]): { space: Space; twin: Twin | null }[] {
  const followers = (space: Space): number => {
    const next = space.feeds && song.spaces.find(({ id }) => id === space.feeds!.spaceId)
    return next ? 1 + followers(next) : 0
  }
  return [...song.spaces]
    .sort((a, b) => followers(b) - followers(a))
    .flatMap(space => [{ space, twin: null }, ...twins.filter(twin => twin.spaceId === space.id).map(twin => ({ space, twin }))])
}

const knownDelays = new WeakMap<Space, { grid: Song['beat']['grid']; frames: number; delays: Lane }>()

function rememberedDelays(space: Space, { grid, frames }: Song['beat']): Lane {
  const before = knownDelays.get(space)
  if (before?.grid === grid && before.frames === frames) return before.delays
  const delays = echoDelays(space, grid, frames)
  knownDelays.set(space, { grid, frames, delays })
  return delays
}

/** -60 dB and below is off. */
function gainOf(decibels: number): number {
  return decibels <= GAIN_RANGE_DECIBELS.min ? 0 : decibelsToGain(decibels)
}

/** Spans of picks and pieces that have not changed since: most plans differ in a level only, and then these are the same arrays. */
interface LaidBy {
  layer: Layer
  song: Song
}
const knownPicks = new WeakMap<readonly Pick[], LaidBy & { prints: PrintTable; spans: Span[] }>()
const knownPieces = new WeakMap<Song['beat']['pieces'], { treatments: Song['beat']['treatments']; assetId: AssetId; prints: PrintTable; spans: Span[] }>()

function rememberedSpans(layer: Layer, song: Song, prints: PrintTable): Span[] {
  const { picks } = currentComp(layer)
  const known = knownPicks.get(picks)
  if (known?.prints === prints && isLaidAlike(known, { layer, song })) return known.spans
  const spans = [...spansOfPicks({ picks, layer }, song, prints), ...spansOfMade(song, layer, prints)].sort((a, b) => a.startFrame - b.startFrame)
  knownPicks.set(picks, { layer, song, prints, spans })
  return spans
}

/** Of a layer all but its levels; and what it follows: the beat's key and chords, the lead, another layer. */
function isLaidAlike(before: LaidBy, now: LaidBy): boolean {
  const { tidy, tune, together, made } = now.layer
  const isSame = (['tidy', 'tune', 'together', 'paths', 'part', 'made'] as const).every(of => before.layer[of] === now.layer[of])
  if (!isSame || before.song.takes !== now.song.takes) return false
  if ((tune || made) && !(['key', 'colour', 'tuningCents'] as const).every(of => before.song.beat[of] === now.song.beat[of])) return false
  const follows = (tune && (tune.to.kind !== 'key' || tune.lines.length > 0)) || tidy?.endsWithLead || together || made
  return !follows || isLedAlike(before.song, now.song)
}

function isLedAlike(before: Song, now: Song): boolean {
  const { grid, chords } = now.beat
  return (
    before.sections === now.sections &&
    before.beat.grid === grid &&
    before.beat.chords === chords &&
    before.layers.length === now.layers.length &&
    before.layers.every(({ id, comps, currentCompId }, i) => {
      const layer = now.layers[i]
      return layer.id === id && layer.comps === comps && layer.currentCompId === currentCompId
    })
  )
}

function spansOfTake(take: Take, song: Song, prints: PrintTable): Span[] {
  return spansOfPicks({ picks: [wholePick(take, 0)], layer: requireLayer(song, take.layerId) }, song, prints)
}

function rememberedBeat({ pieces, treatments, assetId }: Song['beat'], prints: PrintTable): Span[] {
  const known = knownPieces.get(pieces)
  if (known?.treatments === treatments && known.assetId === assetId && known.prints === prints) return known.spans
  const spans = spansOfBeat({ pieces, treatments, assetId }, prints)
  knownPieces.set(pieces, { treatments, assetId, prints, spans })
  return spans
}
