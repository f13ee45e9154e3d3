/** Picks: which take sounds where. Whatever the order of edits, the picks of a comp lie in order and never overlap. */
import { produce } from 'immer'
import type { AssetId, LayerId, Pick, PickId, Song, TakeId } from '../song/schema'
import { currentComp, overlapFrames, requireLayer, requireTake, type FrameRange } from '../song/select'

/** Another layer that plays the same stretch of the same sound. */
export interface Use extends FrameRange {
  layerId: LayerId
}

/** Where other layers' current comps play this take's sound within a song range. Loop passes share one recording, so the sound itself is compared. */
export function usesElsewhere(song: Song, options: { takeId: TakeId; layerId: LayerId } & FrameRange): Use[] {
  const take = requireTake(song, options.takeId)
  const wanted = soundOf(take, options)
  return song.layers.flatMap(layer => {
    if (layer.id === options.layerId) return []
    return currentComp(layer).picks.flatMap(pick => {
      const other = requireTake(song, pick.takeId)
      const used = soundOf(other, { startFrame: pick.startFrame - pick.nudgeFrames, endFrame: pick.endFrame - pick.nudgeFrames })
      return used.assetId === wanted.assetId && overlapFrames(used, wanted) > 0 ? [{ layerId: layer.id, startFrame: pick.startFrame, endFrame: pick.endFrame }] : []
    })
  })
}

function soundOf(take: { assetId: AssetId; originFrame: number }, range: FrameRange): FrameRange & { assetId: AssetId } {
  return { assetId: take.assetId, startFrame: range.startFrame - take.originFrame, endFrame: range.endFrame - take.originFrame }
}

export type PickCheck = { ok: true; range: FrameRange } | { ok: false; reason: 'not-sung-here' } | { ok: false; reason: 'used-elsewhere'; uses: Use[] }

/** Whether a take may sound in a layer over a range; `range` is the part of it that the take holds. Seams of 50 ms do not count as use. */
export function checkPick(song: Song, { layerId, takeId, startFrame, endFrame }: { layerId: LayerId; takeId: TakeId } & FrameRange): PickCheck {
  const take = requireTake(song, takeId)
  const range = { startFrame: Math.max(startFrame, take.startFrame), endFrame: Math.min(endFrame, take.endFrame) }
  if (range.endFrame - range.startFrame < MINIMUM_PICK_FRAMES || take.binned) return { ok: false, reason: 'not-sung-here' }
  const uses = usesElsewhere(song, { layerId, takeId, startFrame: range.startFrame + SEAM_TOLERANCE_FRAMES, endFrame: range.endFrame - SEAM_TOLERANCE_FRAMES })
  return uses.length > 0 ? { ok: false, reason: 'used-elsewhere', uses } : { ok: true, range }
}

const MINIMUM_PICK_FRAMES = 2_400
/** Neighbouring lines of two layers may meet a little apart, each at its own quiet spot. */
const SEAM_TOLERANCE_FRAMES = 12_000

/** Command: a take sounds in a layer over a range, in place of whatever sounded there. Nothing moves in time. */
export function pickTake(song: Song, options: { layerId: LayerId; takeId: TakeId; makeId: () => string } & FrameRange): Song {
  const check = checkPick(song, options)
  if (!check.ok) throw new RangeError(`take ${options.takeId} cannot be picked here: ${check.reason}`)
  const take = requireTake(song, options.takeId)
  const range = overSlivers(currentComp(requireLayer(song, options.layerId)).picks, check.range, take)
  const pick: Pick = { id: options.makeId() as PickId, takeId: options.takeId, ...range, gainDecibels: 0, nudgeFrames: 0 }
  return changePicks(song, options.layerId, picks => joinAlike([...clearRange(picks, pick, options.makeId), pick].sort((a, b) => a.startFrame - b.startFrame)))
}

/** Shorter than this, what would be left of a pick beside a new one, or of silence between two, is taken over as well. */
const SLIVER_FRAMES = 24_000

/** A range that leaves no sliver of its neighbours or of silence before them, as far as the take reaches. */
function overSlivers(picks: readonly Pick[], range: FrameRange, take: FrameRange): FrameRange {
  let { startFrame, endFrame } = range
  const isSliver = (frames: number) => frames > 0 && frames < SLIVER_FRAMES
  for (const pick of picks) {
    const overlaps = overlapFrames(pick, range) > 0
    const before = overlaps ? pick.startFrame : pick.endFrame
    const after = overlaps ? pick.endFrame : pick.startFrame
    if (isSliver(range.startFrame - before)) startFrame = Math.max(before, take.startFrame)
    if (isSliver(after - range.endFrame)) endFrame = Math.min(after, take.endFrame)
  }
  return { startFrame, endFrame }
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
    const after = pick.endFrame > range.endFrame ? [{ ...pick, id: before.length > 0 ? (makeId() as PickId) : pick.id, startFrame: range.endFrame }] : []
    return [...before, ...after]
  })
}

/** Neighbouring picks of one take with equal settings become one: there is no seam between them. */
function joinAlike(picks: readonly Pick[]): Pick[] {
  const joined: Pick[] = []
  for (const pick of picks) {
    const last = joined.at(-1)
    if (last && last.endFrame === pick.startFrame && last.takeId === pick.takeId && last.gainDecibels === pick.gainDecibels && last.nudgeFrames === pick.nudgeFrames) {
      joined[joined.length - 1] = { ...last, endFrame: pick.endFrame }
    } else joined.push(pick)
  }
  return joined
}

function changePicks(song: Song, layerId: LayerId, change: (picks: readonly Pick[]) => Pick[]): Song {
  const picks = change(currentComp(requireLayer(song, layerId)).picks)
  return produce(song, draft => {
    currentComp(requireLayer(draft, layerId)).picks = picks
  })
}

/** The pick that sounds at a frame in a layer's current comp; null where it is silent. */
export function pickAt(song: Song, layerId: LayerId, frame: number): Pick | null {
  return currentComp(requireLayer(song, layerId)).picks.find(pick => frame >= pick.startFrame && frame < pick.endFrame) ?? null
}
