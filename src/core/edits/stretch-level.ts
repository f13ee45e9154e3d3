/** The level of a stretch of the song: gains laid over the takes that are picked there. */
import type { EditId, GainEdit } from '../song/edit-schema'
import type { Layer, LayerId, Pick, Song, Take, TakeId } from '../song/schema'
import { currentComp, overlapFrames, requireLayer, requireTake, type FrameRange } from '../song/select'
import { removeEdits, setGainEdit } from './commands'
import { inAsset, originOf } from './in-asset'

/** A gain as it is heard, in frames of the song; where a seam runs through it, it is laid over both takes. */
export interface GainInSong extends FrameRange {
  gainDecibels: number
  fadeFrames: number
  parts: { takeId: TakeId; edit: GainEdit }[]
}

/** Ends that lie no further apart are the same, 70 ms: a phrase is told a little otherwise when its neighbours change. */
const ALIKE_FRAMES = 3_360
/** Past a seam, what lies over a take goes on for so long: longer than takes are crossed there. */
const PAST_SEAM_FRAMES = 9_600

/** The gains of a layer that sound in a range, in order. */
export function gainsInSong(song: Song, layer: Layer, range: FrameRange): GainInSong[] {
  const found: GainInSong[] = []
  for (const pick of currentComp(layer).picks) {
    if (pick.asSung || overlapFrames(pick, range) <= 0) continue
    const take = requireTake(song, pick.takeId)
    for (const edit of take.edits.gains) {
      const gain = heardIn(pick, take, edit)
      if (overlapFrames(gain, range) <= 0) continue
      const before = found.find(entry => goesOn(entry, gain) || entry.parts.some(part => part.edit.id === edit.id))
      if (!before) found.push(gain)
      else {
        before.endFrame = Math.max(before.endFrame, gain.endFrame)
        if (!before.parts.some(part => part.edit.id === edit.id)) before.parts.push(...gain.parts)
      }
    }
  }
  return found.sort((a, b) => a.startFrame - b.startFrame)
}

function heardIn(pick: Pick, take: Take, edit: GainEdit): GainInSong {
  const origin = originOf(pick, take)
  return {
    startFrame: Math.max(pick.startFrame, edit.startFrame + origin),
    endFrame: Math.min(pick.endFrame, edit.endFrame + origin),
    gainDecibels: edit.gainDecibels,
    fadeFrames: edit.fadeFrames,
    parts: [{ takeId: take.id, edit }],
  }
}

/** Whether a gain was laid over the next take as one with that of the take before. */
function goesOn(before: GainInSong, gain: GainInSong): boolean {
  const isAlike = before.gainDecibels === gain.gainDecibels && before.fadeFrames === gain.fadeFrames
  const [last] = before.parts.slice(-1)
  return isAlike && last.takeId !== gain.parts[0].takeId && Math.abs(before.endFrame - gain.startFrame) <= ALIKE_FRAMES
}

/** The gain that is laid over just this stretch, as far as it is played. */
export function gainOfStretch(song: Song, layer: Layer, stretch: FrameRange): GainInSong | null {
  const parts = partsOf(song, layer, stretch)
  if (parts.length === 0) return null
  const startFrame = Math.max(stretch.startFrame, parts[0].pick.startFrame)
  const endFrame = Math.min(stretch.endFrame, parts[parts.length - 1].pick.endFrame)
  const isHere = (gain: FrameRange) => Math.abs(gain.startFrame - startFrame) <= ALIKE_FRAMES && Math.abs(gain.endFrame - endFrame) <= ALIKE_FRAMES
  return gainsInSong(song, layer, stretch).find(isHere) ?? null
}

/** What is picked in a stretch, and is not to be as it was sung; past a seam inside it, what is laid goes on. */
function partsOf(song: Song, layer: Layer, stretch: FrameRange): { pick: Pick; takeId: TakeId; range: FrameRange }[] {
  return currentComp(layer).picks.flatMap(pick => {
    const take = requireTake(song, pick.takeId)
    const range = pick.asSung ? null : inAsset(pick, take, stretch)
    if (!range) return []
    const startFrame = stretch.startFrame < pick.startFrame ? Math.max(0, range.startFrame - PAST_SEAM_FRAMES) : range.startFrame
    const endFrame = stretch.endFrame > pick.endFrame ? range.endFrame + PAST_SEAM_FRAMES : range.endFrame
    return [{ pick, takeId: take.id, range: { startFrame, endFrame } }]
  })
}

export interface StretchGain {
  layerId: LayerId
  stretch: FrameRange
  gainDecibels: number
  fadeFrames: number
}

/**
 * Command: a stretch sounds louder or softer, in the place of what was laid over just this stretch; 0 dB: nothing is.
 * @throws RangeError if `checkEdit` says no of one of the takes.
 */
export function setGainInStretch(song: Song, { layerId, stretch, gainDecibels, fadeFrames, makeId }: StretchGain & { makeId: () => string }): Song {
  const layer = requireLayer(song, layerId)
  const before = gainOfStretch(song, layer, stretch)
  const cleared = before ? removeGain(song, before) : song
  if (gainDecibels === 0) return cleared
  return partsOf(cleared, layer, stretch).reduce(
    (changed, { takeId, range }) => setGainEdit(changed, { takeId, edit: { id: makeId() as EditId, ...range, gainDecibels, fadeFrames } }),
    cleared,
  )
}

/** Command: what is laid over a stretch goes. */
export function removeGain(song: Song, { parts }: { parts: GainInSong['parts'] }): Song {
  return parts.reduce((changed, { takeId, edit }) => removeEdits(changed, { takeId, editIds: [edit.id] }), song)
}
