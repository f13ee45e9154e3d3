/** What throws are in the plan: each space that words are thrown into has a twin for them alone, so that its answer can end without the other's. */
import { GAIN_RANGE_DECIBELS } from '../song/fields'
import type { LanePoint, SpaceId } from '../song/mix-schema'
import type { Layer, Song } from '../song/schema'
import { currentComp, placedLines } from '../song/select'
import { laneOf, NO_LANE, type Lane } from './lane'
import { nextLineSung, throwsSung } from './throws'

const OFF = GAIN_RANGE_DECIBELS.min
/** The way opens and shuts round the word in so much time: 15 ms. */
const FADE_FRAMES = 720
/** After the last word of a phrase it stays open a little: what is sung ends later than it is heard to end. */
const RELEASE_FRAMES = 2_880
/** An answer that ends, or is held down, does so in the 60 ms before the next line. */
const ENDING_FRAMES = 2_880
/** Whole blocks of nothing: what rings is then forgotten. */
const FORGOTTEN_FRAMES = 384
const DUCKED_DECIBELS = -12
/** An answer that was held down comes back in so much time. */
const RETURN_FRAMES = 14_400

export interface Twin {
  spaceId: SpaceId
  /** Of the answer, in decibels. */
  ride: Lane
}
export interface Thrown {
  twins: readonly Twin[]
  /** For each twin what each layer sends into it, in decibels; a layer that throws nothing there: no lane. */
  sendOf: (layer: Layer, twin: Twin) => Lane
}

/** What one layer throws into one space, and what becomes of the answer. */
interface LayerThrown {
  spaceId: SpaceId
  send: Lane
  /** When the way opens; what then becomes of the answer, in order. */
  opens: number[]
  endings: Ending[]
}
interface Ending {
  kind: 'ducks' | 'ends'
  /** The next line begins. */
  startFrame: number
  endFrame: number
}

export function thrownOf(song: Song): Thrown {
  const byLayer = new Map(song.layers.map(layer => [layer, rememberedThrown(song, layer)]))
  const all = [...byLayer.values()].flat()
  const twins = song.spaces
    .filter(space => all.some(entry => entry.spaceId === space.id))
    .map(({ id }): Twin => {
      const into = all.filter(entry => entry.spaceId === id)
      return {
        spaceId: id,
        ride: laneOf(
          answerRide(
            into.flatMap(entry => entry.opens),
            into.flatMap(entry => entry.endings),
          ),
        ),
      }
    })
  return { twins, sendOf: (layer, { spaceId }) => byLayer.get(layer)?.find(entry => entry.spaceId === spaceId)?.send ?? NO_LANE }
}

const NOTHING: LayerThrown[] = []
const known = new WeakMap<Layer['throws'], { by: readonly unknown[]; thrown: LayerThrown[] }>()

/** Asked for with every plan; most change a level only. */
function rememberedThrown(song: Song, layer: Layer): LayerThrown[] {
  if (layer.throws.length === 0) return NOTHING
  const { tidy, tune, together, paths, made, part } = layer
  const by = [currentComp(layer).picks, song.takes, song.sections, song.beat.grid, tidy, tune, together, paths, made, part]
  const before = known.get(layer.throws)
  if (before && by.every((value, i) => value === before.by[i])) return before.thrown
  const thrown = layerThrown(song, layer)
  known.set(layer.throws, { by, thrown })
  return thrown
}

function layerThrown(song: Song, layer: Layer): LayerThrown[] {
  const lines = placedLines(song)
  const sung = throwsSung(song, layer)
  return [...new Set(sung.map(({ thrown }) => thrown.spaceId))].map(spaceId => {
    const own = sung.filter(({ thrown }) => thrown.spaceId === spaceId)
    const endings = own.flatMap(({ thrown: { tail }, at }): Ending[] => {
      const next = tail === 'rings' ? null : nextLineSung(song, layer, at.placed, lines)
      return next && tail !== 'rings' ? [{ kind: tail, startFrame: Math.max(next.startFrame, at.endFrame), endFrame: next.endFrame }] : []
    })
    const bumps = own.map(({ thrown, at }) => ({
      from: at.startFrame,
      to: Math.max(at.endFrame + (at.endsPhrase ? RELEASE_FRAMES : 0), at.startFrame + 1),
      decibels: thrown.gainDecibels,
    }))
    return { spaceId, send: laneOf(opened(bumps)), opens: bumps.map(({ from }) => from - FADE_FRAMES), endings }
  })
}

/** Off, but for each stretch at its level; two that touch go over into each other. */
function opened(bumps: readonly { from: number; to: number; decibels: number }[]): LanePoint[] {
  const points: LanePoint[] = []
  const add = (frame: number, value: number) => {
    const last = points.at(-1)
    if (!last || frame > last.frame) points.push({ frame, value })
    else if (frame === last.frame) last.value = Math.max(last.value, value)
  }
  bumps.forEach(({ from, to, decibels }, i) => {
    const before = bumps[i - 1]
    const next = bumps[i + 1]
    if (!before || from - before.to > 2 * FADE_FRAMES) add(from - FADE_FRAMES, OFF)
    add(from, decibels)
    const end = next ? Math.min(to, next.from - 1) : to
    add(end, decibels)
    if (!next || next.from - to > 2 * FADE_FRAMES) add(to + FADE_FRAMES, OFF)
  })
  return points
}

/** 0 dB, but where the next line holds the answer down or has ended it: then off until words are thrown again. */
function answerRide(opens: readonly number[], endings: readonly Ending[]): LanePoint[] {
  if (endings.length === 0) return []
  const points: LanePoint[] = []
  const add = (frame: number, value: number) => {
    if (frame > (points.at(-1)?.frame ?? -Infinity)) points.push({ frame, value })
  }
  const sorted = [...endings].sort((a, b) => a.startFrame - b.startFrame)
  sorted.forEach(({ kind, startFrame, endFrame }, i) => {
    // Two layers that are thrown together end together.
    if (sorted[i - 1] && startFrame - sorted[i - 1].startFrame < ENDING_FRAMES) return
    const opensAgain = opens.filter(frame => frame > startFrame - ENDING_FRAMES).sort((a, b) => a - b)[0] ?? Infinity
    if (kind === 'ducks') {
      const until = Math.max(startFrame, Math.min(endFrame, opensAgain))
      add(startFrame - ENDING_FRAMES, 0)
      add(startFrame, DUCKED_DECIBELS)
      add(until, DUCKED_DECIBELS)
      add(until + RETURN_FRAMES, 0)
      return
    }
    const ended = Math.min(startFrame, opensAgain - FORGOTTEN_FRAMES)
    add(ended - ENDING_FRAMES, 0)
    add(ended, OFF)
    if (opensAgain === Infinity) return
    add(opensAgain, OFF)
    add(opensAgain + FADE_FRAMES, 0)
  })
  return points
}
