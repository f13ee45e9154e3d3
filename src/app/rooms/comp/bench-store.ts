/** What the singer looks at and listens to in Comp: view state, never part of the song. */
import { create } from 'zustand'
import type { BlindRound } from '../../../core/comp/blind'
import { USUAL_WEIGHTS, type LineCandidates, type Weights } from '../../../core/comp/propose-comp'
import { SCOPES, stretchAt, stretchesOf, type Scope, type Stretch } from '../../../core/comp/stretches'
import type { Company } from '../../../core/mix/heard'
import type { CompId, Layer, LayerId, PickId, Song, TakeId } from '../../../core/song/schema'
import { currentComp, overlapFrames, placedLines, requireTake, type FrameRange, type PlacedLine } from '../../../core/song/select'
import type { Sung } from '../../../core/song/words'
import { useSongStore } from '../../song/song-store'
import { analysedTake, knownVoice, sungBy, type VoiceOf } from '../../song/voices'
import { select, useView, type Selection } from '../../song/view-store'

export type Panel = 'none' | 'first' | 'comps' | 'aside'

/** A row of the bench: a take as one layer might play it. */
export interface Row {
  layerId: LayerId
  takeId: TakeId
}

export interface SeamId {
  pickId: PickId
  edge: 'start' | 'end'
}

interface BenchState {
  /** What is chosen at once inside a selection of lines. */
  fine: 'line' | 'piece' | 'word'
  /** Says which piece or word. */
  atFrame: number
  /** The row that is heard and looked at; null: what is picked. */
  focus: Row | null
  company: Company
  /** Takes are compared as loud as what is picked. */
  equalLoudness: boolean
  barBefore: boolean
  /** Pitch and onsets are drawn on the strips. */
  notes: boolean
  /** Only takes, of any layer, that no layer plays here. */
  freeOnly: boolean
  /** All layers of this one's role. */
  sideBySide: boolean
  /** Looked at instead of the stretch. */
  zoom: FrameRange | null
  seam: SeamId | null
  panel: Panel
  weights: Weights
  /** What was read off the layer's takes for a first comp, and of what. */
  candidates: { of: string; lines: LineCandidates[] } | null
  blind: BlindRound | null
  /** Something was to be changed in a locked comp. */
  lockedAsked: boolean
  /** The comp that the current one is compared with, and whether it is the one heard. */
  against: { compId: CompId; playing: boolean } | null
  /** Why a key did nothing just now. */
  hint: string | null
}

const FIRST: BenchState = {
  fine: 'line',
  atFrame: 0,
  focus: null,
  company: 'stack',
  equalLoudness: true,
  barBefore: false,
  notes: false,
  freeOnly: false,
  sideBySide: false,
  zoom: null,
  seam: null,
  panel: 'none',
  weights: USUAL_WEIGHTS,
  candidates: null,
  blind: null,
  lockedAsked: false,
  against: null,
  hint: null,
}

export const useBench = create<BenchState>(() => FIRST)

export const setBench = useBench.setState

/** Long enough to be read. */
const HINT_MILLISECONDS = 5_000
let hintTimer: ReturnType<typeof setTimeout> | undefined

/** Says why a key did nothing. */
export function hint(text: string): void {
  clearTimeout(hintTimer)
  setBench({ hint: text })
  hintTimer = setTimeout(() => setBench({ hint: null }), HINT_MILLISECONDS)
}

/** Takes back a gesture that has not come to rest; null where there is none. */
let takeGestureBack: (() => void) | null = null

export function noteGesture(takeBack: (() => void) | null): void {
  takeGestureBack = takeBack
}

/** Back to the stretch, also from where a gesture is about to lead. */
export function leaveZoom(): void {
  takeGestureBack?.()
  takeGestureBack = null
  setBench({ zoom: null })
}

// Nothing of a song that was closed stays in view, and nothing of a take, comp or layer that an undone step took with it.
useSongStore.subscribe((state, before) => {
  if (!state.history) return void (before.history && setBench(FIRST))
  if (state.history.song !== before.history?.song) setBench(bench => withoutWhatIsGone(bench, state.history!.song))
})

function withoutWhatIsGone(bench: BenchState, { takes, layers }: Song): BenchState {
  const isTake = (id: TakeId) => takes.some(take => take.id === id)
  const { focus, blind, against } = bench
  const focusStays = !focus || (isTake(focus.takeId) && layers.some(layer => layer.id === focus.layerId))
  const blindStays = !blind || blind.order.every(isTake)
  const againstStays = !against || layers.some(layer => layer.comps.some(comp => comp.id === against.compId))
  if (focusStays && blindStays && againstStays) return bench
  return { ...bench, focus: focusStays ? focus : null, blind: blindStays ? blind : null, against: againstStays ? against : null }
}

/** Names what a first comp is read off: takes sung since, or lines moved since, ask for it anew. */
export function whatIsCompared(song: Song, layerId: LayerId): string {
  const takes = song.takes.filter(take => take.layerId === layerId && !take.binned).map(take => [take.id, take.originFrame])
  return JSON.stringify([layerId, takes, placedLines(song).map(placed => [placed.line.id, placed.startFrame, placed.endFrame])])
}

function scopeOf(selection: Selection, fine: BenchState['fine']): Scope {
  return selection.kind === 'lines' ? fine : selection.kind
}

/** What the layer's picked take sings in a line, or any other take of it that was listened to. */
export function sungIn(song: Song, layer: Layer, voiceOf: VoiceOf = knownVoice): (line: PlacedLine) => Sung | null {
  const { picks } = currentComp(layer)
  return line => {
    const pick = [...picks].sort((a, b) => overlapFrames(b, line) - overlapFrames(a, line))[0]
    const picked = pick && overlapFrames(pick, line) > 0 ? analysedTake(requireTake(song, pick.takeId), pick.nudgeFrames, voiceOf) : null
    const any =
      picked ??
      song.takes
        .filter(take => take.layerId === layer.id && !take.binned && overlapFrames(take, line) > 0.5 * (line.endFrame - line.startFrame))
        .map(take => analysedTake(take, 0, voiceOf))
        .find(analysed => analysed !== null)
    return any ? sungBy(any) : null
  }
}

/** The stretch that is chosen among takes now; null for a song without lines. */
export function currentStretch(
  song: Song,
  layer: Layer,
  selection: Selection,
  { fine, atFrame }: Pick<BenchState, 'fine' | 'atFrame'>,
  voiceOf: VoiceOf = knownVoice,
): Stretch | null {
  const scope = scopeOf(selection, fine)
  const all = stretchesOf(song, layer, scope, sungIn(song, layer, voiceOf))
  if (selection.kind === 'song') return all[0] ?? null
  if (selection.kind === 'section') return all.find(stretch => stretch.sectionId === selection.sectionId) ?? null
  const inside = all.filter(stretch => stretch.lineIds.some(id => selection.lineIds.includes(id)))
  if (inside.length === 0) return null
  if (scope !== 'line') return inside[stretchAt(inside, atFrame)]!
  const last = inside.at(-1)!
  return inside.length === 1
    ? inside[0]!
    : { ...inside[0]!, title: `${inside[0]!.title} … ${last.title}`, endFrame: last.endFrame, lineIds: inside.flatMap(stretch => stretch.lineIds) }
}

/** Goes to a stretch: its lines are selected. */
export function goTo(song: Song, stretch: Stretch): void {
  if (stretch.scope === 'song') select(song, { kind: 'song' })
  else if (stretch.scope === 'section') select(song, { kind: 'section', sectionId: stretch.sectionId! })
  else {
    select(song, { kind: 'lines', lineIds: stretch.lineIds })
    setBench({ fine: stretch.scope })
  }
  leaveZoom()
  setBench({ atFrame: stretch.startFrame, focus: null, seam: null })
}

export function stepStretch(song: Song, layer: Layer, by: number): void {
  const { selection } = useView.getState()
  const bench = useBench.getState()
  const all = stretchesOf(song, layer, scopeOf(selection, bench.fine), sungIn(song, layer))
  const now = currentStretch(song, layer, selection, bench)
  if (!now || all.length === 0) return
  const index = all.findIndex(stretch => stretch.startFrame === now.startFrame)
  goTo(song, all[Math.max(0, Math.min(all.length - 1, index + by))]!)
}

/** From the song to the word, or back, at the same place. */
export function changeScope(song: Song, layer: Layer, to: Scope | 1 | -1): void {
  const { selection } = useView.getState()
  const bench = useBench.getState()
  const now = currentStretch(song, layer, selection, bench)
  const scope = typeof to === 'string' ? to : SCOPES[Math.max(0, Math.min(SCOPES.length - 1, SCOPES.indexOf(scopeOf(selection, bench.fine)) + to))]!
  const all = stretchesOf(song, layer, scope, sungIn(song, layer))
  // The cursor says which of many; it lies inside what was looked at.
  const frame = now ? Math.max(now.startFrame, Math.min(now.endFrame - 1, bench.atFrame)) : 0
  if (all.length > 0) goTo(song, all[stretchAt(all, frame)]!)
}
