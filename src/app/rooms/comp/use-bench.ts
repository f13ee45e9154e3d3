/** What is on the bench now, and what is heard for it. */
import { useCallback, useEffect, useLayoutEffect, useMemo } from 'react'
import { useQuery } from '@tanstack/react-query'
import { barAtFrame, frameOfBar } from '../../../core/beat/grid'
import { matchGainDecibels } from '../../../core/comp/level-match'
import type { View } from '../../../core/mix/heard'
import type { Stretch } from '../../../core/comp/stretches'
import { currentComp, requireTake, type FrameRange } from '../../../core/song/select'
import type { Layer, Song, Take, TakeId } from '../../../core/song/schema'
import { queryClient } from '../../query-client'
import { useSong } from '../../song/song-store'
import { placedPeaksOf } from '../../song/sounds'
import { useVoices, type VoiceOf } from '../../song/voices'
import { useView } from '../../song/view-store'
import { currentStretch, leaveZoom, setBench, useBench, type Row } from './bench-store'
import { pickedIn, rowKey, rowsOf } from './rows'

export interface Bench {
  song: Song
  layer: Layer
  stretch: Stretch
  rows: Row[]
  /** The row that is heard: the one looked at, else what is picked, else the first. */
  focused: Row | null
  picked: Take | null
  /** What is in view. */
  view: FrameRange
  voiceOf: VoiceOf
}

/** Takes next to the one that is heard may be asked for at any moment: their sound is kept at hand. */
const STANDBY_ROWS = 3
/** Seen on both sides of what is chosen. */
const MARGIN_FRAMES = 24_000
const LEAST_VIEW_FRAMES = 96_000

export function useBenchState(layer: Layer): Bench | null {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const fine = useBench(state => state.fine)
  const atFrame = useBench(state => state.atFrame)
  const freeOnly = useBench(state => state.freeOnly)
  const sideBySide = useBench(state => state.sideBySide)
  const zoom = useBench(state => state.zoom)
  const focus = useBench(state => state.focus)
  // Words lie where the takes that were listened to sing them.
  const voices = useVoices(useMemo(() => placingTakesOf(song, layer, focus?.takeId ?? null), [song, layer, focus?.takeId]))
  const voiceOf = useCallback<VoiceOf>(assetId => voices.get(assetId) ?? null, [voices])
  const stretchNow = useMemo(() => currentStretch(song, layer, selection, { fine, atFrame }, voiceOf), [song, layer, selection, fine, atFrame, voiceOf])
  const stretch = useSame(stretchNow)
  const rowsNow = useMemo(() => (stretch ? rowsOf(song, layer, stretch, { freeOnly, sideBySide }) : []), [song, layer, stretch, freeOnly, sideBySide])
  const rows = useSame(rowsNow)
  const picked = stretch ? (pickedIn(song, layer.id, stretch)?.take ?? null) : null
  const view = useMemo(() => zoom ?? (stretch ? viewOf(stretch) : { startFrame: 0, endFrame: 1 }), [zoom, stretch])
  const focused =
    rows.find(row => focus && rowKey(row) === rowKey(focus)) ?? rows.find(row => row.layerId === layer.id && row.takeId === picked?.id) ?? rows[0] ?? null
  return useMemo(
    () => (stretch ? { song, layer, stretch, rows, focused, picked, view, voiceOf } : null),
    [song, layer, stretch, rows, focused, picked, view, voiceOf],
  )
}

/** The same object as long as it says the same: a pick makes a new song, but seldom another stretch or other rows. */
function useSame<T>(value: T): T {
  const said = JSON.stringify(value)
  return useMemo(() => JSON.parse(said) as T, [said])
}

/** Words are placed by what is picked, by the first take where nothing is; quiet places also by what is looked at. */
function placingTakesOf(song: Song, layer: Layer, focusId: TakeId | null): Take[] {
  const first = song.takes.find(take => take.layerId === layer.id && !take.binned)
  return [...new Set([...currentComp(layer).picks.map(pick => pick.takeId), ...(first ? [first.id] : []), ...(focusId ? [focusId] : [])])].map(id =>
    requireTake(song, id),
  )
}

function viewOf({ startFrame, endFrame }: FrameRange): FrameRange {
  const margin = Math.max(MARGIN_FRAMES, (LEAST_VIEW_FRAMES - (endFrame - startFrame)) / 2)
  return { startFrame: Math.round(startFrame - margin), endFrame: Math.round(endFrame + margin) }
}

/** By how much the focused take is turned to be as loud as what its layer plays there; 0 if it is that. */
export function useMatchDecibels({ song, stretch, focused }: Bench): number {
  const equal = useBench(state => state.equalLoudness)
  const ground = focused ? pickedIn(song, focused.layerId, stretch)?.take : undefined
  const differs = ground !== undefined && focused !== null && ground.id !== focused.takeId
  const { data } = useQuery({ ...matchQuery(ground ?? null, focused ? requireTake(song, focused.takeId) : null, stretch), enabled: differs && equal })
  return differs && equal ? (data ?? 0) : 0
}

export function matchQuery(ground: Take | null, take: Take | null, { startFrame, endFrame }: FrameRange) {
  return {
    queryKey: ['level-match', ground?.id, take?.id, startFrame, endFrame],
    queryFn: async () => {
      const [a, b] = await Promise.all([ground!, take!].map(placedPeaksOf))
      return a && b ? matchGainDecibels(a, b, { startFrame, endFrame }) : 0
    },
  }
}

/** Lets the engine play what is looked at: a take in place of the comp, or another comp, in the company that was asked for. */
export function useAudition(bench: Bench, matchDecibels: number): void {
  const { song, layer, stretch } = bench
  const company = useBench(state => state.company)
  const against = useBench(state => state.against)
  const barBefore = useBench(state => state.barBefore)
  useEffect(() => useView.setState({ view: auditionOf(bench, matchDecibels) }), [bench, matchDecibels, company, against])
  useEffect(() => () => useView.setState({ view: { kind: 'song' }, loopRange: null }), [])
  const { startFrame, endFrame } = stretch
  const { grid } = song.beat
  useLayoutEffect(() => {
    const from = barBefore ? frameOfBar(grid, barAtFrame(grid, startFrame) - 1) + (startFrame - frameOfBar(grid, barAtFrame(grid, startFrame))) : startFrame
    useView.setState({ loopRange: { startFrame: from, endFrame }, cursorFrame: from })
  }, [startFrame, endFrame, barBefore, grid])
  // What was looked at in another stretch, or on another layer, is not meant here.
  const place = `${layer.id}/${startFrame}/${endFrame}`
  useEffect(
    () => () => {
      leaveZoom()
      setBench({ focus: null, seam: null, blind: null })
    },
    [place],
  )
  useEffect(() => () => setBench({ against: null }), [layer.id])
}

/** What is heard for a bench: the focused take in place of the comp, another comp, or the comp itself. */
function auditionOf({ song, layer, stretch, rows, focused }: Bench, matchDecibels: number): View {
  const { company, against } = useBench.getState()
  const index = focused ? rows.indexOf(focused) : -1
  const standby = rows.slice(Math.max(0, index - STANDBY_ROWS), index + STANDBY_ROWS + 1).map(row => row.takeId)
  if (against?.playing) return { kind: 'comp', layerId: layer.id, compId: against.compId, with: company, standby }
  if (!focused || focused.takeId === pickedIn(song, focused.layerId, stretch)?.take.id)
    return { kind: 'comp', layerId: focused?.layerId ?? layer.id, compId: compOf(song, focused?.layerId ?? layer.id), with: company, standby }
  // With the stack the take is tried in its place in the comp; alone or with the beat it is heard on both sides too.
  const within = company === 'stack' ? { within: { startFrame: stretch.startFrame, endFrame: stretch.endFrame } } : {}
  return { kind: 'audition', layerId: focused.layerId, takeId: focused.takeId, with: company, gainDecibels: matchDecibels, standby, ...within }
}

/** Looks at a row. It is heard at once; what is drawn follows. */
export function focusRow(bench: Bench, row: Row): void {
  const ground = pickedIn(bench.song, row.layerId, bench.stretch)?.take ?? null
  const known =
    useBench.getState().equalLoudness && ground && ground.id !== row.takeId
      ? queryClient.getQueryData<number>(matchQuery(ground, requireTake(bench.song, row.takeId), bench.stretch).queryKey)
      : undefined
  useView.setState({ view: auditionOf({ ...bench, focused: row }, known ?? 0) })
  setBench({ focus: row })
}

function compOf(song: Song, layerId: Layer['id']) {
  return song.layers.find(layer => layer.id === layerId)!.currentCompId
}
