/** Picks: which take sounds where. Whatever the order of edits, the picks of a comp lie in order and never overlap. */
import { produce } from 'immer'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { AssetId, LayerId, Pick, PickId, Seam, Song, Take, TakeId } from '../song/schema'
import { currentComp, overlapFrames, requireLayer, requireTake, type FrameRange } from '../song/select'
import { SEAM_REACH_FRAMES } from './quiet-spot'

/** Another layer that plays the same stretch of the same sound. */
export interface Use extends FrameRange {
  layerId: LayerId
  /** How much later the sound lies here than there: 0 is only louder, a few milliseconds are hollow. */
  shiftFrames: number
}

/** A sound that was put to another place of the song, and comes back so much later, is no double of itself. */
const ANOTHER_PLACE_FRAMES = 2.5 * SAMPLE_RATE_HZ

interface Lying {
  originFrame: number
  /** It was put there by matching, and not sung there. */
  isPlaced: boolean
}

/** A stretch of an asset, in its own frames, and the song frame at which the asset's frame 0 lies. */
interface Sound extends FrameRange, Lying {
  assetId: AssetId
}

/**
 * Neighbouring lines of two layers may meet a little apart, each at its own quiet spot; so may two passes of a loop, where one's end
 * is the next one's beginning.
 */
const SEAM_TOLERANCE_FRAMES = SEAM_REACH_FRAMES

/**
 * Where other layers' current comps play this take's sound within a song range; seams at its edges do not count. Loop passes share one
 * recording, so the sound itself is compared; a bounce counts as the takes that it was bounced from.
 */
export function usesElsewhere(song: Song, { takeId, layerId, ...range }: { takeId: TakeId; layerId: LayerId } & FrameRange): Use[] {
  const take = requireTake(song, takeId)
  const [from, to] = [Math.max(range.startFrame, take.startFrame), Math.min(range.endFrame, take.endFrame)]
  const margin = Math.min(SEAM_TOLERANCE_FRAMES, (to - from) >> 2)
  const wanted = soundsOf(song, take, { startFrame: from + margin, endFrame: to - margin }, 0)
  return song.layers.flatMap(layer => {
    if (layer.id === layerId) return []
    return currentComp(layer).picks.flatMap((pick): Use[] => {
      const used = soundsOf(song, requireTake(song, pick.takeId), pick, pick.nudgeFrames)
      for (const here of wanted) {
        const there = used.find(sound => sound.assetId === here.assetId && isOnePlace(sound, here) && overlapFrames(sound, here) > 0)
        if (there) return [{ layerId: layer.id, startFrame: pick.startFrame, endFrame: pick.endFrame, shiftFrames: here.originFrame - there.originFrame }]
      }
      return []
    })
  })
}

function isPlaced({ roundTripSource }: Take): boolean {
  return roundTripSource === 'matched'
}

function isOnePlace(a: Lying, b: Lying): boolean {
  return !(a.isPlaced || b.isPlaced) || Math.abs(a.originFrame - b.originFrame) < ANOTHER_PLACE_FRAMES
}

function soundsOf(song: Song, take: Take, { startFrame, endFrame }: FrameRange, nudgeFrames: number): Sound[] {
  const originFrame = take.originFrame + nudgeFrames
  const own: Sound = { assetId: take.assetId, isPlaced: isPlaced(take), originFrame, startFrame: startFrame - originFrame, endFrame: endFrame - originFrame }
  if (!take.bounceOf) return [own]
  const sources = take.bounceOf.picks.flatMap(pick => {
    const part = { startFrame: Math.max(startFrame - nudgeFrames, pick.startFrame), endFrame: Math.min(endFrame - nudgeFrames, pick.endFrame) }
    const source = song.takes.find(entry => entry.id === pick.takeId)
    return source && part.endFrame > part.startFrame
      ? soundsOf(song, source, { startFrame: part.startFrame + nudgeFrames, endFrame: part.endFrame + nudgeFrames }, pick.nudgeFrames + nudgeFrames)
      : []
  })
  return [own, ...sources]
}

/** A range without the ends of it in which another layer plays the same sound; as it was where too little would be left. */
function apartFromOthers(song: Song, layerId: LayerId, take: Take, range: FrameRange): FrameRange {
  let { startFrame, endFrame } = range
  for (const layer of song.layers) {
    if (layer.id === layerId) continue
    for (const pick of currentComp(layer).picks) {
      for (const used of soundsOf(song, requireTake(song, pick.takeId), pick, pick.nudgeFrames)) {
        if (used.assetId !== take.assetId || !isOnePlace(used, { originFrame: take.originFrame, isPlaced: isPlaced(take) })) continue
        const [from, to] = [used.startFrame + take.originFrame, used.endFrame + take.originFrame]
        if (from <= startFrame && to > startFrame) startFrame = to
        else if (to >= endFrame && from < endFrame) endFrame = from
      }
    }
  }
  return endFrame - startFrame < MINIMUM_PICK_FRAMES ? range : { startFrame, endFrame }
}

export type PickCheck =
  { ok: true; range: FrameRange } | { ok: false; reason: 'not-sung-here' | 'locked' } | { ok: false; reason: 'used-elsewhere'; range: FrameRange; uses: Use[] }

/**
 * Whether a take may sound in a layer over a range; `range` is the part of it that the take holds. Seams do not count as use: where the range's
 * edges were moved to quiet, only the stretch that was asked for does.
 */
export function checkPick(
  song: Song,
  { layerId, takeId, startFrame, endFrame, asked }: { layerId: LayerId; takeId: TakeId; asked?: FrameRange } & FrameRange,
): PickCheck {
  const take = requireTake(song, takeId)
  const range = { startFrame: Math.max(startFrame, take.startFrame), endFrame: Math.min(endFrame, take.endFrame) }
  if (range.endFrame - range.startFrame < MINIMUM_PICK_FRAMES || take.binned) return { ok: false, reason: 'not-sung-here' }
  if (currentComp(requireLayer(song, layerId)).locked) return { ok: false, reason: 'locked' }
  const uses = usesElsewhere(song, { layerId, takeId, ...(asked ?? range) })
  return uses.length > 0 ? { ok: false, reason: 'used-elsewhere', range, uses } : { ok: true, range }
}

/** 50 ms: shorter than any syllable, and long enough for a crossfade at both ends. */
export const MINIMUM_PICK_FRAMES = 2_400
export interface PickOptions extends FrameRange {
  layerId: LayerId
  takeId: TakeId
  gainDecibels?: number
  levelMatched?: boolean
  /** The crossfades at both ends; null: the usual one. */
  startSeam?: Seam | null
  endSeam?: Seam | null
  /** Also where another layer plays the same sound. */
  insist?: boolean
  /** The stretch that was asked for, if the range's edges were moved from its edges to quiet. */
  asked?: FrameRange
  makeId: () => string
}

/** Command: a take sounds in a layer over a range, in place of whatever sounded there. Nothing moves in time. */
export function pickTake(song: Song, options: PickOptions): Song {
  const check = checkPick(song, options)
  if (!check.ok && !(check.reason === 'used-elsewhere' && options.insist)) throw new RangeError(`take ${options.takeId} cannot be picked here: ${check.reason}`)
  const range = settleRange(song, options)
  const pick: Pick = {
    id: options.makeId() as PickId,
    takeId: options.takeId,
    ...range,
    gainDecibels: options.gainDecibels ?? 0,
    levelMatched: options.levelMatched ?? false,
    nudgeFrames: 0,
    seam: options.startSeam ?? null,
    split: false,
    asSung: false,
  }
  return changePicks(song, options.layerId, picks => {
    const others = clearRange(picks, pick, options.makeId)
    const next = others.find(other => other.startFrame === pick.endFrame)
    const around = others.map(other => (other === next ? { ...other, seam: options.endSeam ?? null } : other))
    return joinAlike([...around, pick].sort((a, b) => a.startFrame - b.startFrame))
  })
}

/** Shorter than this, what would be left of a pick beside a new one, or of silence between two, is taken over as well. */
const SLIVER_FRAMES = 24_000
/** A pick that was itself cut short on purpose (a word) is no sliver. */
const SLIVER_SHARE = 0.5

/**
 * The range over which a take is picked if it is picked for a range: as far as it reaches, and so that no sliver of its neighbours,
 * or of silence before them, is left.
 * A pick that ended at the edge that was asked for, at its own quiet spot on the other side of it, goes whole. Unless it is insisted on,
 * the range ends where another layer plays the same sound.
 */
export function settleRange(
  song: Song,
  { layerId, takeId, asked, insist = false, ...wanted }: { layerId: LayerId; takeId: TakeId; asked?: FrameRange; insist?: boolean } & FrameRange,
): FrameRange {
  const take = requireTake(song, takeId)
  const { picks } = currentComp(requireLayer(song, layerId))
  const range = { startFrame: Math.max(wanted.startFrame, take.startFrame), endFrame: Math.min(wanted.endFrame, take.endFrame) }
  let { startFrame, endFrame } = range
  for (const pick of picks) {
    const overlaps = overlapFrames(pick, range) > 0
    const isSliver = (frames: number, edge: number, askedEdge = Infinity) => {
      if (!overlaps) return frames > 0 && frames < SLIVER_FRAMES
      const endedThere = Math.abs(edge - askedEdge) <= SEAM_REACH_FRAMES
      return frames > 0 && frames < Math.min(endedThere ? 2 * SEAM_REACH_FRAMES : SLIVER_FRAMES, SLIVER_SHARE * (pick.endFrame - pick.startFrame))
    }
    const before = overlaps ? pick.startFrame : pick.endFrame
    const after = overlaps ? pick.endFrame : pick.startFrame
    if (isSliver(range.startFrame - before, before, asked?.startFrame)) startFrame = Math.max(before, take.startFrame)
    if (isSliver(after - range.endFrame, after, asked?.endFrame)) endFrame = Math.min(after, take.endFrame)
  }
  return insist ? { startFrame, endFrame } : apartFromOthers(song, layerId, take, { startFrame, endFrame })
}

/** Command: silence over a range of a layer. */
export function clearPicks(song: Song, { layerId, makeId, ...range }: { layerId: LayerId; makeId: () => string } & FrameRange): Song {
  const overlaps = currentComp(requireLayer(song, layerId)).picks.some(pick => overlapFrames(pick, range) > 0)
  return overlaps ? changePicks(song, layerId, picks => clearRange(picks, range, makeId)) : song
}

/** The picks with a range cut out of them; a pick that spans the whole range becomes two. */
export function clearRange(picks: readonly Pick[], range: FrameRange, makeId: () => string): Pick[] {
  return picks.flatMap(pick => {
    if (overlapFrames(pick, range) === 0) return [pick]
    const before = pick.startFrame < range.startFrame ? [{ ...pick, endFrame: range.startFrame }] : []
    const after =
      pick.endFrame > range.endFrame
        ? [{ ...pick, id: before.length > 0 ? (makeId() as PickId) : pick.id, startFrame: range.endFrame, seam: null, split: false }]
        : []
    return [...before, ...after]
  })
}

/** A take from its start to its end. */
export function wholePick({ id, startFrame, endFrame }: Take, gainDecibels: number): Pick {
  return {
    id: `whole-${id}`.slice(0, 64) as PickId,
    takeId: id,
    startFrame,
    endFrame,
    gainDecibels,
    levelMatched: false,
    nudgeFrames: 0,
    seam: null,
    split: false,
    asSung: false,
  }
}

/** What a pick makes of its take, wherever it begins and ends. */
export function soundOfPick({ takeId, nudgeFrames, gainDecibels, asSung }: Pick) {
  return [takeId, nudgeFrames, gainDecibels, asSung] as const
}

/** Whether two picks sound alike in every frame that both play. */
export function soundAlike(a: Pick, b: Pick): boolean {
  const other = soundOfPick(b)
  return soundOfPick(a).every((value, i) => value === other[i])
}

/** Whether two picks that meet are one stretch of one take, so that nothing is heard where they meet. */
export function runsOn(before: Pick, after: Pick): boolean {
  return before.endFrame === after.startFrame && soundAlike(before, after)
}

/** Neighbouring picks of one take with equal settings become one, unless the singer cut between them. */
export function joinAlike(picks: readonly Pick[]): Pick[] {
  const joined: Pick[] = []
  for (const pick of picks) {
    const last = joined.at(-1)
    if (last && !pick.split && runsOn(last, pick)) joined[joined.length - 1] = { ...last, endFrame: pick.endFrame }
    else joined.push(pick)
  }
  return joined
}

/** @throws RangeError if the comp is locked: ask `checkPick` or the comp first. */
export function changePicks(song: Song, layerId: LayerId, change: (picks: readonly Pick[]) => Pick[]): Song {
  const comp = currentComp(requireLayer(song, layerId))
  if (comp.locked) throw new RangeError(`comp ${comp.id} is locked`)
  const picks = change(comp.picks)
  return produce(song, draft => {
    currentComp(requireLayer(draft, layerId)).picks = picks
  })
}

/** The pick that sounds at a frame in a layer's current comp; null where it is silent. */
export function pickAt(song: Song, layerId: LayerId, frame: number): Pick | null {
  return currentComp(requireLayer(song, layerId)).picks.find(pick => frame >= pick.startFrame && frame < pick.endFrame) ?? null
}
