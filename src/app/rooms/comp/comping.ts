/** Choosing: picks with seams in quiet places, crossfades by the sound on both sides, levels by what is met. Everything is one step of undo. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { checkEdit } from '../../../core/edits/commands'
import { setPitchInStretch } from '../../../core/edits/stretch-pitch'
import { seamMatchDecibels } from '../../../core/comp/level-match'
import { pickAllInto, pickInto, seamBetween, type PickOutcome, type Playing } from '../../../core/comp/pick-into'
import { changePicks, clearPicks, pickAt } from '../../../core/comp/picks'
import { bestQuietPlace, findQuietPlaces, type AnalysedTake, type QuietPlace } from '../../../core/comp/quiet-places'
import { SEAM_REACH_FRAMES } from '../../../core/comp/quiet-spot'
import { moveSeam, nudgeStretch, reachesBeyond, setPickGain, splitPick } from '../../../core/comp/seams'
import type { LayerId, Pick, PickId, Seam, Song, TakeId } from '../../../core/song/schema'
import { currentComp, overlapFrames, requireLayer, requireTake, type FrameRange } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { currentSong, edit, editWith, tryOut } from '../../song/song-store'
import { peaksLookup } from '../../song/sounds'
import { storedSound } from '../../song/stored-sound'
import { analysedTake, knownVoice, type VoiceOf } from '../../song/voices'
import { hint, setBench, type Row, type SeamId } from './bench-store'

/** Changes a layer's current comp, unless it is locked: then the room says so. */
export function editComp(layerId: LayerId, label: string, command: (song: Song) => Song): void {
  if (currentComp(requireLayer(currentSong(), layerId)).locked) setBench({ lockedAsked: true })
  else edit(label, command)
}

/** A take sounds in a stretch; its edges go to quiet places of what meets there. */
export async function pickRow(row: Row, stretch: Stretchable, { insist = false }: { insist?: boolean } = {}): Promise<PickOutcome> {
  const { startFrame, endFrame } = stretch
  const name = requireTake(currentSong(), row.takeId).name.toLowerCase()
  return editWith(`pick ${name} for ‘${stretch.title.slice(0, 24)}’`, async song => {
    const made = await pickInto(song, { ...row, asked: { startFrame, endFrame }, insist, makeId }, storedSound)
    return { song: made.song, answer: made.outcome }
  })
}

/** Several picks as one step. Those that cannot be made are left out. @returns how many were made. */
export function pickRows(label: string, wanted: readonly { row: Row; stretch: Stretchable }[]): Promise<number> {
  return editWith(label, async song => {
    const made = await pickAllInto(
      song,
      wanted.map(({ row, stretch: { startFrame, endFrame } }) => ({ ...row, asked: { startFrame, endFrame }, makeId })),
      storedSound,
    )
    return { song: made.song, answer: made.made }
  })
}

type Stretchable = FrameRange & { title: string }

/** Whether all takes that meet somewhere were listened to. */
export function allHeard(song: Song, playing: readonly Playing[]): boolean {
  return playing.every(({ takeId }) => analysedTake(requireTake(song, takeId)) !== null)
}

/** Where in a range a seam may go: quiet in all that the layer plays there, and in the take that is looked at. */
export function quietPlacesIn(song: Song, layerId: LayerId, focusId: TakeId | null, range: FrameRange, voiceOf: VoiceOf = knownVoice): QuietPlace[] {
  const picks = currentComp(requireLayer(song, layerId)).picks.filter(pick => overlapFrames(pick, range) > 0)
  const playing: Playing[] = [
    ...picks.map(({ takeId, nudgeFrames }) => ({ takeId, nudgeFrames })),
    ...(focusId && !picks.some(pick => pick.takeId === focusId) ? [{ takeId: focusId, nudgeFrames: 0 }] : []),
  ]
  const analysed = playing
    .map(({ takeId, nudgeFrames }) => analysedTake(requireTake(song, takeId), nudgeFrames, voiceOf))
    .filter((entry): entry is AnalysedTake => entry !== null)
  return findQuietPlaces(analysed, range)
}

/** A place that one meant when one pointed so near to it. */
export const SNAP_FRAMES = 6_000

/** What the layer plays is cut at a frame; near a quiet place it snaps to it. False if nothing is played there. */
export function cutAt(layerId: LayerId, frame: number, { snap }: { snap: boolean }): boolean {
  const song = currentSong()
  const pick = pickAt(song, layerId, frame)
  if (!pick) return false
  const analysed = analysedTake(requireTake(song, pick.takeId), pick.nudgeFrames)
  const place = snap && analysed ? bestQuietPlace([analysed], frame, 2 * SNAP_FRAMES) : null
  const at = place?.frame ?? Math.round(frame)
  editComp(layerId, 'cut', current => splitPick(current, { layerId, frame: at, makeId }))
  const made = currentComp(requireLayer(currentSong(), layerId)).picks.find(entry => entry.startFrame === at)
  if (made) setBench({ seam: { pickId: made.id, edge: 'start' } })
  return made !== undefined
}

/** What is heard in a stretch sounds later by so much than it does (0: as it was sung); of a pick that reaches beyond it only the stretch. */
export function nudgeIn(layerId: LayerId, stretch: FrameRange, nudgeFrames: (now: number) => number): void {
  const song = currentSong()
  const pick = pickAt(song, layerId, Math.round((stretch.startFrame + stretch.endFrame) / 2))
  if (!pick) return hint('Nothing is picked here to be moved.')
  const analysed = analysedTake(requireTake(song, pick.takeId), pick.nudgeFrames)
  const reach = Math.min(SNAP_FRAMES, (stretch.endFrame - stretch.startFrame) >> 2)
  const edge = (frame: number) => (analysed && bestQuietPlace([analysed], frame, reach)?.frame) ?? frame
  const beyond = reachesBeyond(pick, stretch)
  const range = {
    startFrame: beyond.before ? edge(stretch.startFrame) : stretch.startFrame,
    endFrame: beyond.after ? edge(stretch.endFrame) : stretch.endFrame,
  }
  const isBack = nudgeFrames(pick.nudgeFrames) === 0
  editComp(layerId, isBack ? 'nudge back' : 'nudge a pick', current => nudgeStretch(current, { layerId, ...range, nudgeFrames, makeId }))
  const now = pickAt(currentSong(), layerId, Math.round((range.startFrame + range.endFrame) / 2))
  if (!now || now.nudgeFrames === nudgeFrames(pick.nudgeFrames) || currentComp(requireLayer(song, layerId)).locked) return
  hint(`It lies ${Math.round(now.nudgeFrames / 48)} ms from where it was sung, and goes no further: the take has no more sound there.`)
}

/** What is picked in the middle of a stretch sounds so many cents higher in it; 0: as it was sung. */
export function setPitch(layerId: LayerId, stretch: Stretchable, shiftCents: number): void {
  const song = currentSong()
  const pick = pickAt(song, layerId, Math.round((stretch.startFrame + stretch.endFrame) / 2))
  const check = pick && checkEdit(song, pick.takeId)
  const isLocked = currentComp(requireLayer(song, layerId)).locked
  if (check && !check.ok && !isLocked)
    return hint(`This take is played by ${check.compNames.join(' and ')}, which is locked: what is laid over it would be heard there too.`)
  editComp(layerId, shiftCents === 0 ? 'the pitch as sung' : `move the pitch of ‘${stretch.title.slice(0, 24)}’`, current =>
    setPitchInStretch(current, { layerId, stretch, shiftCents, makeId }),
  )
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

/** A seam is left somewhere: its crossfade is chosen anew unless the singer chose it. A seam that was undone meanwhile stays gone. */
export async function keepSeam(layerId: LayerId, id: SeamId, frame: number): Promise<void> {
  await editUnlocked(layerId, 'move a seam', async (song, picks) => {
    if (!picks.some(pick => pick.id === id.pickId)) return song
    const moved = moveSeam(song, { layerId, ...id, frame })
    const place = seamsIn(moved, layerId, { startFrame: -Infinity, endFrame: Infinity }).find(seam => seam.id.pickId === id.pickId && seam.id.edge === id.edge)
    if (!place?.before || !place.after || place.before.takeId === place.after.takeId || place.after.seam?.byHand) return moved
    const { seam } = await seamBetween(moved, place.before, place.after, place.frame, storedSound)
    return moveSeam(song, { layerId, ...id, frame, seam })
  })
}

/** As `editComp`, for a change that must be worked out first: worked out anew if the song is changed meanwhile. */
async function editUnlocked(layerId: LayerId, label: string, work: (song: Song, picks: readonly Pick[]) => Promise<Song>): Promise<void> {
  if (currentComp(requireLayer(currentSong(), layerId)).locked) return setBench({ lockedAsked: true })
  await editWith(label, async song => {
    const layer = song.layers.find(entry => entry.id === layerId)
    return { song: layer && !currentComp(layer).locked ? await work(song, currentComp(layer).picks) : song, answer: null }
  })
}

/** The crossfade as the sound asks for it, whatever it was. */
export async function seamBySound(place: SeamPlace): Promise<Seam | null> {
  return place.before && place.after ? (await seamBetween(currentSong(), place.before, place.after, place.frame, storedSound)).seam : null
}

/** The next quiet place after a seam, or before it. */
export function nextQuietPlace(place: SeamPlace, by: 1 | -1): QuietPlace | null {
  const song = currentSong()
  const playing = [place.before, place.after].filter((pick): pick is Pick => pick !== null)
  const analysed = playing.map(({ takeId, nudgeFrames }) => analysedTake(requireTake(song, takeId), nudgeFrames))
  if (!analysed.every(entry => entry !== null)) return null
  const reach = 4 * SAMPLE_RATE_HZ
  const places = findQuietPlaces(analysed, { startFrame: place.frame - reach, endFrame: place.frame + reach })
  return (by > 0 ? places.find(entry => entry.frame > place.frame + 480) : places.findLast(entry => entry.frame < place.frame - 480)) ?? null
}

/** A pick's level follows what it meets, or is the singer's own. */
export async function matchPick(layerId: LayerId, pickId: PickId, matched: boolean): Promise<void> {
  await editUnlocked(layerId, matched ? 'match its level' : 'leave its level', async (song, picks) => {
    const pick = picks.find(entry => entry.id === pickId)
    if (!pick) return song
    if (!matched) return setPickGain(song, { layerId, pickId, gainDecibels: 0, levelMatched: false })
    const peaksOf = await peaksLookup([...new Set(picks.map(entry => entry.takeId))].map(id => requireTake(song, id)))
    const withoutIt = changePicks(song, layerId, all => all.filter(entry => entry.id !== pickId))
    const { takeId, startFrame, endFrame } = pick
    const gainDecibels = seamMatchDecibels(withoutIt, { layerId, takeId, startFrame, endFrame, peaksOf })
    return setPickGain(song, { layerId, pickId, gainDecibels, levelMatched: true })
  })
}

/** Silence in a stretch, from seam to seam where one is near its edges; both edges never go to one seam. False if nothing plays there. */
export function clearStretch(layerId: LayerId, stretch: FrameRange): boolean {
  const song = currentSong()
  const { picks } = currentComp(requireLayer(song, layerId))
  if (!picks.some(pick => overlapFrames(pick, stretch) > 0)) return false
  const edges = picks.flatMap(pick => [pick.startFrame, pick.endFrame])
  const reach = Math.min(SEAM_REACH_FRAMES, (stretch.endFrame - stretch.startFrame) / 2)
  const near = (frame: number) => edges.filter(edge => Math.abs(edge - frame) < reach).sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))[0] ?? frame
  editComp(layerId, 'clear it', current => clearPicks(current, { layerId, startFrame: near(stretch.startFrame), endFrame: near(stretch.endFrame), makeId }))
  return true
}
