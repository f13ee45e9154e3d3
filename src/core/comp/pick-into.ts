/**
 * How a take is picked into a stretch, from whatever room: seams in quiet places of all that meets there, crossfades by the sound on
 * both sides, the level by what is met.
 */
import type { Mono } from '../audio/frames'
import type { AssetId, LayerId, Seam, Song, Take, TakeId } from '../song/schema'
import { currentComp, requireLayer, requireTake, type FrameRange } from '../song/select'
import { chooseCrossfade, SEAM_CONTEXT_FRAMES } from './crossfade'
import { seamMatchDecibels } from './level-match'
import { checkPick, pickTake, settleRange } from './picks'
import { bestQuietPlace, findQuietPlaces, type AnalysedTake, type QuietPlace } from './quiet-places'
import { quietSpotNear, SEAM_REACH_FRAMES, type PlacedPeaks } from './quiet-spot'

export type PickOutcome = 'picked' | 'not-sung-here' | 'locked' | 'used-elsewhere'

/** What a pick needs to know of stored sound. */
export interface SoundOfTakes {
  /** Stored levels of some takes, looked up by take; null where there are none. */
  peaksOf(takes: readonly Take[]): Promise<(take: Take) => PlacedPeaks | null>
  /** What was read off a take, moved by a nudge; null until it was listened to. */
  analysed(take: Take, nudgeFrames: number): AnalysedTake | null
  /** Frames of a sound, one channel; silence where it does not reach. */
  read(assetId: AssetId, startFrame: number, endFrame: number): Promise<Mono>
}

export interface PickWish {
  layerId: LayerId
  takeId: TakeId
  /** The stretch that is asked for. */
  asked: FrameRange
  /** Also where another layer plays the same sound. */
  insist?: boolean
  makeId: () => string
}

/** What plays on one side of a seam. */
export interface Playing {
  takeId: TakeId
  nudgeFrames: number
}

/** The song with the pick made, or as it was with the reason why it could not be. */
export async function pickInto(
  song: Song,
  { layerId, takeId, asked, insist = false, makeId }: PickWish,
  sound: SoundOfTakes,
): Promise<{ outcome: PickOutcome; song: Song }> {
  const refusal = (range: FrameRange) => {
    const check = checkPick(song, { layerId, takeId, asked, startFrame: range.startFrame, endFrame: range.endFrame })
    return check.ok || (check.reason === 'used-elsewhere' && insist) ? null : check.reason
  }
  const refused = refusal(asked)
  if (refused) return { outcome: refused, song }
  const { picks } = currentComp(requireLayer(song, layerId))
  const beside = (frame: number) =>
    picks.filter(pick => pick.takeId !== takeId && frame > pick.startFrame - SEAM_REACH_FRAMES && frame < pick.endFrame + SEAM_REACH_FRAMES)
  const meeting = [takeId, ...beside(asked.startFrame).map(pick => pick.takeId), ...beside(asked.endFrame).map(pick => pick.takeId)]
  const peaksOf = await sound.peaksOf([...new Set(meeting)].map(id => requireTake(song, id)))
  const reach = Math.min(SEAM_REACH_FRAMES, Math.floor((asked.endFrame - asked.startFrame) / 3))
  const edge = (frame: number) => {
    const playing: Playing[] = [{ takeId, nudgeFrames: 0 }, ...beside(frame)]
    const analysed = playing.map(entry => sound.analysed(requireTake(song, entry.takeId), entry.nudgeFrames))
    const place = analysed.every(entry => entry !== null) ? bestQuietPlace(analysed, frame, reach) : null
    if (place) return place.frame
    const peaks = playing.map(entry => peaksOf(requireTake(song, entry.takeId))).filter((entry): entry is PlacedPeaks => entry !== null)
    return quietSpotNear(peaks, frame, reach)
  }
  const wanted = { startFrame: edge(asked.startFrame), endFrame: edge(asked.endFrame) }
  const settled = settleRange(song, { layerId, takeId, asked, insist, ...(wanted.endFrame > wanted.startFrame ? wanted : asked) })
  const others = picks.filter(pick => pick.takeId !== takeId || pick.nudgeFrames !== 0)
  const before = others.find(pick => pick.startFrame < settled.startFrame && pick.endFrame >= settled.startFrame)
  const after = others.find(pick => pick.endFrame > settled.endFrame && pick.startFrame <= settled.endFrame)
  const take = { takeId, nudgeFrames: 0 }
  const [startSeam, endSeam] = await Promise.all([
    before ? seamBetween(song, before, take, settled.startFrame, sound) : null,
    after ? seamBetween(song, take, after, settled.endFrame, sound) : null,
  ])
  const range = { startFrame: settled.startFrame + (startSeam?.shiftFrames ?? 0), endFrame: settled.endFrame + (endSeam?.shiftFrames ?? 0) }
  const refusedNow = refusal(range)
  if (refusedNow) return { outcome: refusedNow, song }
  const picked = pickTake(song, {
    layerId,
    takeId,
    ...range,
    asked,
    insist,
    gainDecibels: seamMatchDecibels(song, { layerId, takeId, ...range, peaksOf }),
    levelMatched: true,
    startSeam: startSeam?.seam ?? null,
    endSeam: endSeam?.seam ?? null,
    makeId,
  })
  return { outcome: 'picked', song: picked }
}

/** Several picks, one after the other. Those that cannot be made are left out. */
export async function pickAllInto(song: Song, wishes: readonly PickWish[], sound: SoundOfTakes): Promise<{ made: number; song: Song }> {
  let made = 0
  let current = song
  for (const wish of wishes) {
    const result = await pickInto(current, wish, sound)
    if (result.outcome === 'picked') made++
    current = result.song
  }
  return { made, song: current }
}

/** The crossfade from one take to another at a frame, by their sound there. */
export async function seamBetween(
  song: Song,
  before: Playing,
  after: Playing,
  frame: number,
  sound: SoundOfTakes,
): Promise<{ seam: Seam; shiftFrames: number }> {
  const [out, into] = await Promise.all(
    [before, after].map(({ takeId, nudgeFrames }) => {
      const take = requireTake(song, takeId)
      const at = frame - take.originFrame - nudgeFrames
      return sound.read(take.assetId, at - SEAM_CONTEXT_FRAMES, at + SEAM_CONTEXT_FRAMES)
    }),
  )
  return chooseCrossfade(out, into, placeAt(song, [before, after], frame, sound))
}

/** A seam this near to a quiet place lies in it. */
const NEAR_FRAMES = 480
const LOOK_FRAMES = 96_000

/** What kind of quiet place a frame is in the takes that meet there; null if it is none, or they were not all listened to. */
export function placeAt(song: Song, playing: readonly Playing[], frame: number, sound: Pick<SoundOfTakes, 'analysed'>): QuietPlace | null {
  const analysed = playing.map(({ takeId, nudgeFrames }) => sound.analysed(requireTake(song, takeId), nudgeFrames))
  if (!analysed.every(entry => entry !== null)) return null
  const places = findQuietPlaces(analysed, { startFrame: frame - LOOK_FRAMES, endFrame: frame + LOOK_FRAMES })
  return places.find(place => Math.abs(place.frame - frame) <= Math.max(NEAR_FRAMES, place.roomFrames / 2)) ?? null
}
