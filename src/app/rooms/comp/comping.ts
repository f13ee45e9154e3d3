/** Choosing: picks with seams in quiet places, crossfades by the sound on both sides, levels by what is met. Everything is one step of undo. */
import { chooseCrossfade, SEAM_CONTEXT_FRAMES } from '../../../core/comp/crossfade'
import { seamMatchDecibels } from '../../../core/comp/level-match'
import { checkPick, clearPicks, pickAt, pickTake, settleRange } from '../../../core/comp/picks'
import { bestQuietPlace, findQuietPlaces, type HeardTake, type QuietPlace } from '../../../core/comp/quiet-places'
import { quietSpotNear, SEAM_REACH_FRAMES, type PlacedPeaks } from '../../../core/comp/quiet-spot'
import { moveSeam, setPickGain, splitPick } from '../../../core/comp/seams'
import type { LayerId, Pick, PickId, Seam, Song, TakeId } from '../../../core/song/schema'
import { currentComp, overlapFrames, requireLayer, requireTake, type FrameRange } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { readStretch } from '../../../storage/sounds'
import { currentSong, edit, tryOut } from '../../song/song-store'
import { peaksLookup } from '../../song/sounds'
import { heardTake, knownVoice, type VoiceOf } from '../../song/voices'
import { setBench, type Row, type SeamId } from './bench-store'

/** Changes a layer's current comp, unless it is locked: then the room says so. */
export function editComp(layerId: LayerId, label: string, command: (song: Song) => Song): void {
  if (currentComp(requireLayer(currentSong(), layerId)).locked) setBench({ lockedAsked: true })
  else edit(label, command)
}

export type PickOutcome = 'picked' | 'not-sung-here' | 'locked' | 'used-elsewhere'

/** A take sounds in a stretch; its edges go to quiet places of what meets there. */
export async function pickRow(row: Row, stretch: Stretchable, options: PickRowOptions = {}): Promise<PickOutcome> {
  for (;;) {
    const song = currentSong()
    const made = await pickInto(song, row, stretch, options)
    if (made.outcome !== 'picked') return made.outcome
    // Something else was done meanwhile: the pick is made anew over it.
    if (currentSong() !== song) continue
    edit(`pick ${requireTake(song, row.takeId).name.toLowerCase()} for ‘${stretch.title.slice(0, 24)}’`, () => made.song)
    return 'picked'
  }
}

/** Several picks as one step. Those that cannot be made are left out. @returns how many were made. */
export async function pickRows(label: string, wanted: readonly { row: Row; stretch: Stretchable }[]): Promise<number> {
  for (;;) {
    const before = currentSong()
    let song = before
    let made = 0
    for (const { row, stretch } of wanted) {
      const result = await pickInto(song, row, stretch, {})
      if (result.outcome === 'picked') made++
      song = result.song
    }
    if (currentSong() !== before) continue
    edit(label, () => song)
    return made
  }
}

type Stretchable = FrameRange & { title: string }
interface PickRowOptions {
  /** Also where another layer plays the same sound. */
  insist?: boolean
}

async function pickInto(song: Song, { layerId, takeId }: Row, stretch: Stretchable, { insist = false }: PickRowOptions): Promise<{ outcome: PickOutcome; song: Song }> {
  const asked = { startFrame: stretch.startFrame, endFrame: stretch.endFrame }
  const refusal = (range: FrameRange) => {
    const check = checkPick(song, { layerId, takeId, asked, startFrame: range.startFrame, endFrame: range.endFrame })
    return check.ok || (check.reason === 'used-elsewhere' && insist) ? null : check.reason
  }
  const refused = refusal(stretch)
  if (refused) return { outcome: refused, song }
  const { picks } = currentComp(requireLayer(song, layerId))
  const beside = (frame: number) => picks.filter(pick => pick.takeId !== takeId && frame > pick.startFrame - SEAM_REACH_FRAMES && frame < pick.endFrame + SEAM_REACH_FRAMES)
  const near = [...new Set([takeId, ...beside(stretch.startFrame).map(pick => pick.takeId), ...beside(stretch.endFrame).map(pick => pick.takeId)])].map(id => requireTake(song, id))
  const peaksOf = await peaksLookup(near)
  const reach = Math.min(SEAM_REACH_FRAMES, Math.floor((stretch.endFrame - stretch.startFrame) / 3))
  const edge = (frame: number) => {
    const playing = [{ takeId, nudgeFrames: 0 }, ...beside(frame)]
    const heard = playing.map(entry => heardTake(requireTake(song, entry.takeId), entry.nudgeFrames))
    const place = heard.every(entry => entry !== null) ? bestQuietPlace(heard, frame, reach) : null
    if (place) return place.frame
    const peaks = playing.map(entry => peaksOf(requireTake(song, entry.takeId))).filter((entry): entry is PlacedPeaks => entry !== null)
    return quietSpotNear(peaks, frame, reach)
  }
  const wanted = { startFrame: edge(stretch.startFrame), endFrame: edge(stretch.endFrame) }
  const settled = settleRange(song, { layerId, takeId, asked, ...(wanted.endFrame > wanted.startFrame ? wanted : asked) })
  const others = picks.filter(pick => pick.takeId !== takeId || pick.nudgeFrames !== 0)
  const before = others.find(pick => pick.startFrame < settled.startFrame && pick.endFrame >= settled.startFrame)
  const after = others.find(pick => pick.endFrame > settled.endFrame && pick.startFrame <= settled.endFrame)
  const take = { takeId, nudgeFrames: 0 }
  const [startSeam, endSeam] = await Promise.all([before ? seamBetween(song, before, take, settled.startFrame) : null, after ? seamBetween(song, take, after, settled.endFrame) : null])
  const range = { startFrame: settled.startFrame + (startSeam?.shiftFrames ?? 0), endFrame: settled.endFrame + (endSeam?.shiftFrames ?? 0) }
  const refusedNow = refusal(range)
  if (refusedNow) return { outcome: refusedNow, song }
  return {
    outcome: 'picked',
    song: pickTake(song, {
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
    }),
  }
}

type Playing = { takeId: TakeId; nudgeFrames: number }

/** The crossfade from one take to another at a frame, by their sound there. */
async function seamBetween(song: Song, before: Playing, after: Playing, frame: number): Promise<{ seam: Seam; shiftFrames: number }> {
  const [out, into] = await Promise.all(
    [before, after].map(async ({ takeId, nudgeFrames }) => {
      const take = requireTake(song, takeId)
      const at = frame - take.originFrame - nudgeFrames
      return (await readStretch(take.assetId, at - SEAM_CONTEXT_FRAMES, at + SEAM_CONTEXT_FRAMES))[0]!
    }),
  )
  return chooseCrossfade(out!, into!, placeAt(song, [before, after], frame))
}

/** Whether all takes that meet somewhere were listened to. */
export function allHeard(song: Song, playing: readonly Playing[]): boolean {
  return playing.every(({ takeId }) => heardTake(requireTake(song, takeId)) !== null)
}

/** What kind of quiet place a frame is in the takes that meet there; null if it is none, or they were not all listened to. */
export function placeAt(song: Song, playing: readonly Playing[], frame: number): QuietPlace | null {
  const heard = playing.map(({ takeId, nudgeFrames }) => heardTake(requireTake(song, takeId), nudgeFrames))
  if (!heard.every(entry => entry !== null)) return null
  const places = findQuietPlaces(heard, { startFrame: frame - 96_000, endFrame: frame + 96_000 })
  return places.find(place => Math.abs(place.frame - frame) <= Math.max(480, place.roomFrames / 2)) ?? null
}

/** Where in a range a seam may go: quiet in all that the layer plays there, and in the take that is looked at. */
export function quietPlacesIn(song: Song, layerId: LayerId, focusId: TakeId | null, range: FrameRange, voiceOf: VoiceOf = knownVoice): QuietPlace[] {
  const picks = currentComp(requireLayer(song, layerId)).picks.filter(pick => overlapFrames(pick, range) > 0)
  const playing: Playing[] = [...picks.map(({ takeId, nudgeFrames }) => ({ takeId, nudgeFrames })), ...(focusId && !picks.some(pick => pick.takeId === focusId) ? [{ takeId: focusId, nudgeFrames: 0 }] : [])]
  const heard = playing.map(({ takeId, nudgeFrames }) => heardTake(requireTake(song, takeId), nudgeFrames, voiceOf)).filter((entry): entry is HeardTake => entry !== null)
  return findQuietPlaces(heard, range)
}

/** A place that one meant when one pointed so near to it. */
export const SNAP_FRAMES = 6_000

/** What the layer plays is cut at a frame; near a quiet place it snaps to it. False if nothing is played there. */
export function cutAt(layerId: LayerId, frame: number, { snap }: { snap: boolean }): boolean {
  const song = currentSong()
  const pick = pickAt(song, layerId, frame)
  if (!pick) return false
  const heard = heardTake(requireTake(song, pick.takeId), pick.nudgeFrames)
  const place = snap && heard ? bestQuietPlace([heard], frame, 2 * SNAP_FRAMES) : null
  const at = place?.frame ?? Math.round(frame)
  editComp(layerId, 'cut', current => splitPick(current, { layerId, frame: at, makeId }))
  const made = currentComp(requireLayer(currentSong(), layerId)).picks.find(entry => entry.startFrame === at)
  if (made) setBench({ seam: { pickId: made.id, edge: 'start' } })
  return made !== undefined
}

export interface SeamPlace {
  id: SeamId
  frame: number
  before: Pick | null
  after: Pick | null
}

/** Every edge of a pick inside a range, once. */
export function seamsIn(song: Song, layerId: LayerId, range: FrameRange): SeamPlace[] {
  const { picks } = currentComp(requireLayer(song, layerId))
  const seams = picks.flatMap((pick, i): SeamPlace[] => {
    const meets = picks[i - 1]?.endFrame === pick.startFrame
    const ends = picks[i + 1]?.startFrame !== pick.endFrame
    return [
      { id: { pickId: pick.id, edge: 'start' }, frame: pick.startFrame, before: meets ? picks[i - 1]! : null, after: pick },
      ...(ends ? [{ id: { pickId: pick.id, edge: 'end' } satisfies SeamId, frame: pick.endFrame, before: pick, after: null }] : []),
    ]
  })
  return seams.filter(seam => seam.frame >= range.startFrame && seam.frame <= range.endFrame)
}

/** Heard while it moves. */
export function trySeam(layerId: LayerId, id: SeamId, frame: number): void {
  if (!currentComp(requireLayer(currentSong(), layerId)).locked) tryOut(song => moveSeam(song, { layerId, ...id, frame }))
}

/** A seam is left somewhere: its crossfade is chosen anew unless the singer chose it. */
export async function keepSeam(layerId: LayerId, id: SeamId, frame: number): Promise<void> {
  if (currentComp(requireLayer(currentSong(), layerId)).locked) return setBench({ lockedAsked: true })
  const moved = moveSeam(currentSong(), { layerId, ...id, frame })
  const place = seamsIn(moved, layerId, { startFrame: -Infinity, endFrame: Infinity }).find(seam => seam.id.pickId === id.pickId && seam.id.edge === id.edge)
  const chosen = place?.before && place.after && place.before.takeId !== place.after.takeId && !place.after.seam?.byHand ? (await seamBetween(moved, place.before, place.after, place.frame)).seam : undefined
  editComp(layerId, 'move a seam', song => moveSeam(song, { layerId, ...id, frame, ...(chosen ? { seam: chosen } : {}) }))
}

/** The crossfade as the sound asks for it, whatever it was. */
export async function seamBySound(place: SeamPlace): Promise<Seam | null> {
  return place.before && place.after ? (await seamBetween(currentSong(), place.before, place.after, place.frame)).seam : null
}

/** The next quiet place after a seam, or before it. */
export function nextQuietPlace(place: SeamPlace, by: 1 | -1): QuietPlace | null {
  const song = currentSong()
  const playing = [place.before, place.after].filter((pick): pick is Pick => pick !== null)
  const heard = playing.map(({ takeId, nudgeFrames }) => heardTake(requireTake(song, takeId), nudgeFrames))
  if (!heard.every(entry => entry !== null)) return null
  const reach = 4 * 48_000
  const places = findQuietPlaces(heard, { startFrame: place.frame - reach, endFrame: place.frame + reach })
  return (by > 0 ? places.find(entry => entry.frame > place.frame + 480) : places.findLast(entry => entry.frame < place.frame - 480)) ?? null
}

/** A pick's level follows what it meets, or is the singer's own. */
export async function matchPick(layerId: LayerId, pickId: PickId, matched: boolean): Promise<void> {
  const song = currentSong()
  const { picks } = currentComp(requireLayer(song, layerId))
  const pick = picks.find(entry => entry.id === pickId)
  if (!pick) return
  const peaksOf = await peaksLookup([...new Set(picks.map(entry => entry.takeId))].map(id => requireTake(song, id)))
  const others = { ...song, layers: song.layers.map(layer => (layer.id === layerId ? { ...layer, comps: layer.comps.map(comp => (comp.id === layer.currentCompId ? { ...comp, picks: comp.picks.filter(entry => entry.id !== pickId) } : comp)) } : layer)) }
  const gainDecibels = matched ? seamMatchDecibels(others, { layerId, takeId: pick.takeId, startFrame: pick.startFrame, endFrame: pick.endFrame, peaksOf }) : 0
  editComp(layerId, matched ? 'match its level' : 'leave its level', current => setPickGain(current, { layerId, pickId, gainDecibels, levelMatched: matched }))
}

/** Silence in a stretch, from seam to seam where one is near its edges. */
export function clearStretch(layerId: LayerId, stretch: FrameRange): void {
  const song = currentSong()
  const edges = currentComp(requireLayer(song, layerId)).picks.flatMap(pick => [pick.startFrame, pick.endFrame])
  const near = (frame: number) => edges.filter(edge => Math.abs(edge - frame) < SEAM_REACH_FRAMES).sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))[0] ?? frame
  editComp(layerId, 'clear it', current => clearPicks(current, { layerId, startFrame: near(stretch.startFrame), endFrame: near(stretch.endFrame), makeId }))
}
