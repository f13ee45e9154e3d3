/** Named comps: kept beside each other, gone back to, compared line by line, locked against accidents. */
import { produce } from 'immer'
import type { Comp, CompId, LayerId, LineId, Pick, PickId, Song } from '../song/schema'
import { overlapFrames, placedLines, requireLayer, requireTake, type FrameRange } from '../song/select'
import { clearRange, joinAlike, soundAlike, usesElsewhere } from './picks'
import { SEAM_REACH_FRAMES } from './quiet-spot'

/** Command: what the layer plays now is kept under a name; work goes on in the current one. */
export function saveComp(song: Song, { layerId, name, makeId }: { layerId: LayerId; name: string; makeId: () => string }): Song {
  return changeLayer(song, layerId, layer => {
    const current = layer.comps.find(comp => comp.id === layer.currentCompId)!
    const copy: Comp = {
      id: makeId() as CompId,
      name: name.trim().slice(0, 120) || nextName(layer.comps),
      locked: false,
      picks: current.picks.map(pick => ({ ...pick, id: makeId() as PickId })),
    }
    layer.comps.push(copy)
  })
}

function nextName(comps: readonly Comp[]): string {
  for (let number = comps.length + 1; ; number++) if (!comps.some(comp => comp.name === `Comp ${number}`)) return `Comp ${number}`
}

/** Command: the layer plays another of its comps. */
export function switchComp(song: Song, { layerId, compId }: { layerId: LayerId; compId: CompId }): Song {
  requireComp(song, layerId, compId)
  return changeLayer(song, layerId, layer => {
    layer.currentCompId = compId
  })
}

/** Command: a comp's name, or its lock. */
export function describeComp(song: Song, { layerId, compId, name, locked }: { layerId: LayerId; compId: CompId; name?: string; locked?: boolean }): Song {
  requireComp(song, layerId, compId)
  return changeLayer(song, layerId, layer => {
    const comp = layer.comps.find(entry => entry.id === compId)!
    if (name !== undefined) comp.name = name.trim().slice(0, 120) || comp.name
    if (locked !== undefined) comp.locked = locked
  })
}

/** Command: a comp that is neither current nor locked is let go. */
export function removeComp(song: Song, { layerId, compId }: { layerId: LayerId; compId: CompId }): Song {
  const comp = requireComp(song, layerId, compId)
  if (comp.locked || requireLayer(song, layerId).currentCompId === compId) throw new RangeError(`comp ${compId} is ${comp.locked ? 'locked' : 'current'}`)
  return changeLayer(song, layerId, layer => {
    layer.comps = layer.comps.filter(entry => entry.id !== compId)
  })
}

function requireComp(song: Song, layerId: LayerId, compId: CompId): Comp {
  const comp = requireLayer(song, layerId).comps.find(entry => entry.id === compId)
  if (!comp) throw new RangeError(`no comp ${compId}`)
  return comp
}

/** Lines in which two comps of a layer do not sound the same: another take, gain or nudge over more than a seam's length. */
export function differingLines(song: Song, { layerId, compIds }: { layerId: LayerId; compIds: readonly [CompId, CompId] }): LineId[] {
  const [a, b] = compIds.map(id => requireComp(song, layerId, id).picks) as [Pick[], Pick[]]
  return placedLines(song)
    .filter(line => {
      // A seam a little further on belongs to the line beside it.
      const margin = Math.min(SEAM_REACH_FRAMES, (line.endFrame - line.startFrame) >> 2)
      return differingFrames(a, b, { startFrame: line.startFrame + margin, endFrame: line.endFrame - margin }) > SAME_WITHIN_FRAMES
    })
    .map(line => line.line.id)
}

/** 0.1 s in a line: seams that were only moved a little make no other line. */
const SAME_WITHIN_FRAMES = 4_800

/** For how many frames of a range two lists of picks play differently. */
function differingFrames(a: readonly Pick[], b: readonly Pick[], range: FrameRange): number {
  const edges = [...new Set([range.startFrame, range.endFrame, ...[...a, ...b].flatMap(pick => [pick.startFrame, pick.endFrame])])]
    .filter(frame => frame >= range.startFrame && frame <= range.endFrame)
    .sort((x, y) => x - y)
  const at = (picks: readonly Pick[], frame: number) => picks.find(pick => frame >= pick.startFrame && frame < pick.endFrame)
  let frames = 0
  for (let i = 1; i < edges.length; i++) {
    const [x, y] = [at(a, edges[i - 1]), at(b, edges[i - 1])]
    const same = x === y || (x !== undefined && y !== undefined && soundAlike(x, y))
    if (!same) frames += edges[i] - edges[i - 1]
  }
  return frames
}

export type CopyCheck = { ok: true } | { ok: false; reason: 'locked' } | { ok: false; reason: 'used-elsewhere'; takeName: string }

/** Whether what one comp plays in a range can be had in the layer's current one: another layer may have taken it meanwhile. */
export function checkCopy(song: Song, { layerId, fromCompId, ...range }: { layerId: LayerId; fromCompId: CompId } & FrameRange): CopyCheck {
  const layer = requireLayer(song, layerId)
  if (requireComp(song, layerId, layer.currentCompId).locked) return { ok: false, reason: 'locked' }
  for (const pick of requireComp(song, layerId, fromCompId).picks) {
    const startFrame = Math.max(pick.startFrame, range.startFrame)
    const endFrame = Math.min(pick.endFrame, range.endFrame)
    if (endFrame > startFrame && usesElsewhere(song, { layerId, takeId: pick.takeId, startFrame, endFrame }).length > 0)
      return { ok: false, reason: 'used-elsewhere', takeName: requireTake(song, pick.takeId).name }
  }
  return { ok: true }
}

/** Command: what another comp plays in a range sounds in the current one too, from seam to seam where that comp has one near the range's edges. */
export function copyFromComp(
  song: Song,
  { layerId, fromCompId, makeId, ...range }: { layerId: LayerId; fromCompId: CompId; makeId: () => string } & FrameRange,
): Song {
  const check = checkCopy(song, { layerId, fromCompId, ...range })
  if (!check.ok) throw new RangeError(`range cannot be copied: ${check.reason}`)
  const source = requireComp(song, layerId, fromCompId).picks
  const near = (frame: number) => {
    const edges = source.flatMap(pick => [pick.startFrame, pick.endFrame]).sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))
    const edge = edges.length > 0 && Math.abs(edges[0] - frame) < SEAM_REACH_FRAMES ? edges[0] : frame
    // Silence inside the range is copied as well.
    const isSilent =
      overlapFrames({ startFrame: Math.min(edge, frame), endFrame: Math.max(edge, frame) }, range) > 0 && !source.some(pick => between(pick, edge, frame))
    return isSilent ? frame : edge
  }
  const whole = { startFrame: near(range.startFrame), endFrame: near(range.endFrame) }
  const copied = source
    .filter(pick => overlapFrames(pick, whole) > 0)
    .map(pick => ({
      ...pick,
      id: makeId() as PickId,
      startFrame: Math.max(pick.startFrame, whole.startFrame),
      endFrame: Math.min(pick.endFrame, whole.endFrame),
    }))
  return changeLayer(song, layerId, layer => {
    const current = layer.comps.find(comp => comp.id === layer.currentCompId)!
    current.picks = joinAlike([...clearRange(current.picks, whole, makeId), ...copied].sort((a, b) => a.startFrame - b.startFrame))
  })
}

function between(pick: Pick, a: number, b: number): boolean {
  return overlapFrames(pick, { startFrame: Math.min(a, b), endFrame: Math.max(a, b) }) > 0
}

function changeLayer(song: Song, layerId: LayerId, change: (layer: Song['layers'][number]) => void): Song {
  return produce(song, draft => change(requireLayer(draft, layerId)))
}
