/** What Tidy does to the song; what a locked comp plays is not changed, and the room says so. */
import { checkEdit, removeEdits, setNoteEdit, type EditCheck } from '../../../core/edits/commands'
import { layGains } from '../../../core/edits/even-out'
import { checkPolicy, setMend, setTidy, setTune, setTuneOfLine } from '../../../core/edits/policies'
import { setGainInStretch, type StretchGain } from '../../../core/edits/stretch-level'
import { moveStretch, setMove, type MoveInSong, type StretchMove } from '../../../core/edits/stretch-time'
import { USUAL_TIDY } from '../../../core/edits/tidy'
import { layerTune, TUNE_STEPS, usualStep } from '../../../core/tune/tune-settings'
import type { MendInSong, NoteInSong } from '../../../core/prints/laid-in'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import type { EditId, NoteEdit } from '../../../core/song/edit-schema'
import type { Layer, LayerId, LineId, Song, TakeId } from '../../../core/song/schema'
import { currentComp, overlapFrames, requireLayer, type FrameRange } from '../../../core/song/select'
import type { LayerTune, TidyPolicy, TuneTo } from '../../../core/song/tidy-schema'
import { makeId } from '../../../storage/database'
import { currentSong, edit, tryOut } from '../../song/song-store'
import { useTidy } from './tidy-store'

function unlessLocked(check: EditCheck, change: () => void): void {
  useTidy.setState({ hint: check.ok ? null : `${check.compNames.join(' and ')} is locked, and sounds as it does. Unlock it in Comp to change this.` })
  if (check.ok) change()
}

export function layTidy(layerIds: readonly LayerId[], label: string, tidy: TidyPolicy | null): void {
  unlessLocked(checkPolicy(currentSong(), layerIds), () => edit(label, song => setTidy(song, { layerIds, tidy })))
}

export function layTune(layerIds: readonly LayerId[], label: string, tune: LayerTune | null): void {
  unlessLocked(checkPolicy(currentSong(), layerIds), () => edit(label, song => setTune(song, { layerIds, tune })))
}

/** One line drawn to something else than the layer; null: to the same. */
export function layTuneOfLine(layerId: LayerId, label: string, { lineId, to }: { lineId: LineId; to: TuneTo | null }): void {
  unlessLocked(checkPolicy(currentSong(), [layerId]), () => edit(label, song => setTuneOfLine(song, { layerId, lineId, to })))
}

/** A layer tidied and tuned as its role usually is, as one step. */
export function layUsual({ id, name, role }: Layer): void {
  const layerIds = [id]
  unlessLocked(checkPolicy(currentSong(), layerIds), () =>
    edit(`tidy and tune ${name}`, song =>
      setTune(setTidy(song, { layerIds, tidy: USUAL_TIDY[role] }), { layerIds, tune: layerTune(TUNE_STEPS[usualStep(role)]) }),
    ),
  )
}

/** Another amount for one mend; null takes it off, undefined gives it back to the layer. */
export function layMend({ takeId, mend: { kind, startFrame } }: MendInSong, label: string, decibels: number | null | undefined): void {
  editTake(takeId, label, song => setMend(song, { takeId, kind, startFrame, decibels }))
}

/** Several mends with amounts of their own, as one step. */
export function layMends(all: readonly { mend: MendInSong; decibels: number }[], label: string): void {
  tryOut(null)
  const song = currentSong()
  const refused = all.map(({ mend }) => checkEdit(song, mend.takeId)).find(check => !check.ok)
  const laid = all.map(({ mend: { takeId, mend }, decibels }) => ({ takeId, kind: mend.kind, startFrame: mend.startFrame, decibels }))
  unlessLocked(refused ?? { ok: true }, () => edit(label, before => laid.reduce((changed, entry) => setMend(changed, entry), before)))
}

/** A mend off, or on again as the layer asks. */
export function toggleMend(mend: MendInSong, where: string): void {
  layMend(mend, mend.isOff ? `mend again: ${where}` : `take off: ${where}`, mend.isOff ? undefined : null)
}

/** A stretch louder or softer than it was sung, faded in and out; 0 dB: as it was sung. */
export function layGain(layerId: LayerId, label: string, { stretch, gainDecibels, fadeFrames }: Omit<StretchGain, 'layerId'>): void {
  editStretch(layerId, stretch, label, song => setGainInStretch(song, { layerId, stretch, gainDecibels, fadeFrames, makeId }))
}

export function layEven(layerId: LayerId, gains: readonly StretchGain[]): void {
  const stretch = { startFrame: gains[0]!.stretch.startFrame, endFrame: gains.at(-1)!.stretch.endFrame }
  editStretch(layerId, stretch, 'even out the phrases', song => layGains(song, { gains, makeId }))
}

/** A stretch earlier (negative) or later than it was sung; 0: when it was sung. */
export function moveTo(layerId: LayerId, label: string, { stretch, laterFrames, holds }: Omit<StretchMove, 'layerId'>): void {
  editStretch(layerId, stretch, label, song => moveStretch(song, { layerId, stretch, laterFrames, holds, makeId }))
}

/** What was moved by another amount; 0: not at all. */
export function layMove({ takeId, editIds }: MoveInSong, label: string, laterFrames: number): void {
  editTake(takeId, label, song => setMove(song, { takeId, editIds, laterFrames: Math.round(laterFrames) }))
}

/** A note drawn to a rung of its own, or left (null). */
export function layRung(note: NoteInSong, label: string, rungCents: number | null): void {
  layRungs([{ note, rungCents }], label)
}

/** Several notes, as one step. */
export function layRungs(all: readonly { note: NoteInSong; rungCents: number | null }[], label: string): void {
  tryOut(null)
  const song = currentSong()
  const refused = all.map(({ note }) => checkEdit(song, note.takeId)).find(check => !check.ok)
  const edits = all.map(({ note, rungCents }) => ({ takeId: note.takeId, edit: rungEdit(note, rungCents) }))
  unlessLocked(refused ?? { ok: true }, () => edit(label, before => edits.reduce((changed, laid) => setNoteEdit(changed, laid), before)))
}

function rungEdit(at: NoteInSong, rungCents: number | null): NoteEdit {
  const { note } = at
  const [startFrame, endFrame] = [note.startSeconds, note.endSeconds].map(seconds => Math.round(seconds * SAMPLE_RATE_HZ)) as [number, number]
  const shiftCents = rungCents === null ? 0 : rungCents - note.cents
  return { id: (at.own?.id ?? makeId()) as EditId, startFrame, endFrame, shiftCents, rungCents }
}

/** A note as its layer is. */
export function giveBack({ takeId, own }: NoteInSong): void {
  if (own) editTake(takeId, 'this note as the layer is', song => removeEdits(song, { takeId, editIds: [own.id] }))
}

function editTake(takeId: TakeId, label: string, command: (song: Song) => Song): void {
  tryOut(null)
  unlessLocked(checkEdit(currentSong(), takeId), () => edit(label, command))
}

function editStretch(layerId: LayerId, stretch: FrameRange, label: string, command: (song: Song) => Song): void {
  tryOut(null)
  const song = currentSong()
  const takeIds = new Set(
    currentComp(requireLayer(song, layerId))
      .picks.filter(pick => overlapFrames(pick, stretch) > 0 && !pick.asSung)
      .map(pick => pick.takeId),
  )
  const refused = [...takeIds].map(id => checkEdit(song, id)).find(check => !check.ok)
  unlessLocked(refused ?? { ok: true }, () => edit(label, command))
}
