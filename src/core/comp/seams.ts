/** Commands on seams and on single picks: cutting, moving a seam, its crossfade, gain and nudge. No sound moves in time but by a typed nudge. */
import { NUDGE_RANGE_FRAMES, type LayerId, type Pick, type PickId, type Seam, type Song } from '../song/schema'
import { clampGain } from '../song/levels'
import { currentComp, requireLayer, requireTake, type FrameRange } from '../song/select'
import { changePicks, joinAlike, MINIMUM_PICK_FRAMES, pickAt } from './picks'
import { SEAM_REACH_FRAMES } from './quiet-spot'

/** Command: cuts the pick that sounds at a frame in two, so that either half can be changed alone. The cut itself is inaudible. */
export function splitPick(song: Song, { layerId, frame, makeId }: { layerId: LayerId; frame: number; makeId: () => string }): Song {
  const pick = pickAt(song, layerId, frame)
  if (!pick || frame - pick.startFrame < MINIMUM_PICK_FRAMES || pick.endFrame - frame < MINIMUM_PICK_FRAMES) return song
  return changePicks(song, layerId, picks =>
    picks.flatMap(entry =>
      entry.id === pick.id
        ? [
            { ...entry, endFrame: frame },
            { ...entry, id: makeId() as PickId, startFrame: frame, seam: null, split: true },
          ]
        : [entry],
    ),
  )
}

/** Where an edge of a pick can go: as far as the takes on both sides reach and until a pick would be too short. */
function seamRoom(song: Song, { layerId, pickId, edge }: { layerId: LayerId; pickId: PickId; edge: 'start' | 'end' }): FrameRange {
  const { picks } = currentComp(requireLayer(song, layerId))
  const index = requirePick(picks, pickId)
  const [before, after] = edge === 'start' ? [picks[index - 1], picks[index]] : [picks[index], picks[index + 1]]
  const frame = edge === 'start' ? picks[index].startFrame : picks[index].endFrame
  const meets = before !== undefined && after !== undefined && before.endFrame === after.startFrame
  const reach = (pick: Pick) => {
    const take = requireTake(song, pick.takeId)
    return { startFrame: take.startFrame + pick.nudgeFrames, endFrame: take.endFrame + pick.nudgeFrames }
  }
  const left = edge === 'end' || meets ? before : undefined
  const right = edge === 'start' || meets ? after : undefined
  const room = { startFrame: -Infinity, endFrame: Infinity }
  const limit = (startFrame: number, endFrame: number) => {
    room.startFrame = Math.max(room.startFrame, startFrame)
    room.endFrame = Math.min(room.endFrame, endFrame)
  }
  if (left) limit(left.startFrame + MINIMUM_PICK_FRAMES, reach(left).endFrame)
  if (right) limit(reach(right).startFrame, right.endFrame - MINIMUM_PICK_FRAMES)
  if (!meets && edge === 'start' && before) limit(before.endFrame, Infinity)
  if (!meets && edge === 'end' && after) limit(-Infinity, after.startFrame)
  // A pick that lies outside what it may is left where it is.
  return room.startFrame <= room.endFrame ? room : { startFrame: frame, endFrame: frame }
}

/** Command: a seam goes to another frame, as near as it can. Both picks that meet there follow; their sound stays in its place. */
export function moveSeam(
  song: Song,
  { layerId, pickId, edge, frame, seam }: { layerId: LayerId; pickId: PickId; edge: 'start' | 'end'; frame: number; seam?: Seam | null },
): Song {
  const room = seamRoom(song, { layerId, pickId, edge })
  const at = Math.round(Math.max(room.startFrame, Math.min(room.endFrame, frame)))
  return changePicks(song, layerId, picks => {
    const index = requirePick(picks, pickId)
    const moved = [...picks]
    const first = edge === 'start' ? index - 1 : index
    const from = edge === 'start' ? picks[index].startFrame : picks[index].endFrame
    if (moved[first] && moved[first].endFrame === from) moved[first] = { ...moved[first], endFrame: at }
    if (moved[first + 1] && moved[first + 1].startFrame === from)
      moved[first + 1] = { ...moved[first + 1], startFrame: at, ...(seam === undefined ? {} : { seam }) }
    return moved
  })
}

/** Command: the crossfade at a pick's start. */
export function setSeam(song: Song, { layerId, pickId, seam }: { layerId: LayerId; pickId: PickId; seam: Seam | null }): Song {
  return changePick(song, layerId, pickId, pick => ({ ...pick, seam }))
}

/** Command: a cut inside one take is taken back. */
export function joinPicks(song: Song, { layerId, pickId }: { layerId: LayerId; pickId: PickId }): Song {
  return changePicks(song, layerId, picks => joinAlike(picks.map(pick => (pick.id === pickId ? { ...pick, split: false } : pick))))
}

/** Command: a pick's own gain, as near as a level can be. */
export function setPickGain(
  song: Song,
  { layerId, pickId, gainDecibels, levelMatched }: { layerId: LayerId; pickId: PickId; gainDecibels: number; levelMatched: boolean },
): Song {
  return changePick(song, layerId, pickId, pick => ({ ...pick, gainDecibels: clampGain(gainDecibels), levelMatched }))
}

/** Whether a pick reaches further beyond a stretch than its seams would. */
export function reachesBeyond(pick: FrameRange, stretch: FrameRange): { before: boolean; after: boolean } {
  const slack = Math.min(SEAM_REACH_FRAMES, (stretch.endFrame - stretch.startFrame) >> 2)
  return { before: pick.startFrame < stretch.startFrame - slack, after: pick.endFrame > stretch.endFrame + slack }
}

/**
 * Command: what sounds in a stretch sounds later or earlier than it was sung. Of a pick that reaches beyond the stretch only the stretch
 * moves: it is cut out first. The same song comes back where nothing sounds or nothing can move.
 * @param nudgeFrames The whole nudge, by what it is now.
 */
export function nudgeStretch(
  song: Song,
  { layerId, startFrame, endFrame, nudgeFrames, makeId }: { layerId: LayerId; nudgeFrames: (now: number) => number; makeId: () => string } & FrameRange,
): Song {
  const middle = Math.round((startFrame + endFrame) / 2)
  const whole = pickAt(song, layerId, middle)
  if (!whole) return song
  const beyond = reachesBeyond(whole, { startFrame, endFrame })
  const edges = [...(beyond.before ? [startFrame] : []), ...(beyond.after ? [endFrame] : [])]
  const cut = edges.reduce((current, frame) => splitPick(current, { layerId, frame, makeId }), song)
  const pick = pickAt(cut, layerId, middle)
  if (!pick) return song
  const nudged = nudgePick(cut, { layerId, pickId: pick.id, nudgeFrames: nudgeFrames(pick.nudgeFrames) })
  return pickAt(nudged, layerId, pick.startFrame)?.nudgeFrames === pick.nudgeFrames ? song : nudged
}

/** Command: a pick sounds so much later (negative: earlier) than it was sung. As far as the take has sound for it. */
export function nudgePick(song: Song, { layerId, pickId, nudgeFrames }: { layerId: LayerId; pickId: PickId; nudgeFrames: number }): Song {
  return changePick(song, layerId, pickId, pick => {
    const take = requireTake(song, pick.takeId)
    // Sounding later means reading from earlier in the take.
    const least = Math.max(NUDGE_RANGE_FRAMES.min, Math.min(0, pick.endFrame - take.endFrame))
    const most = Math.min(NUDGE_RANGE_FRAMES.max, Math.max(0, pick.startFrame - take.startFrame))
    return { ...pick, nudgeFrames: Math.round(Math.max(least, Math.min(most, nudgeFrames))) }
  })
}

function changePick(song: Song, layerId: LayerId, pickId: PickId, change: (pick: Pick) => Pick): Song {
  return changePicks(song, layerId, picks => {
    const index = requirePick(picks, pickId)
    return picks.map((pick, i) => (i === index ? change(pick) : pick))
  })
}

function requirePick(picks: readonly Pick[], pickId: PickId): number {
  const index = picks.findIndex(pick => pick.id === pickId)
  if (index < 0) throw new RangeError(`no pick ${pickId}`)
  return index
}
