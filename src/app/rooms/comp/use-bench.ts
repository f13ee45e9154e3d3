/** What is on the bench now, and what is heard for it. */
import { useCallback, useEffect, useLayoutEffect, useMemo } from 'react'
import { useQuery } from '@tanstack/react-query'
import { barAtFrame, frameOfBar } from '../../../core/beat/grid'
import { matchGainDecibels } from '../../../core/comp/level-match'
import type { Stretch } from '../../../core/comp/stretches'
import { currentComp, requireTake, type FrameRange } from '../../../core/song/select'
import type { Layer, Song, Take } from '../../../core/song/schema'
import { useSong } from '../../song/song-store'
import { placedPeaksOf } from '../../song/sounds'
import { useVoices, type VoiceOf } from '../../song/voices'
import { useView } from '../../song/view-store'
import { currentStretch, setBench, useBench, type Row } from './bench-store'
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
  const heard = useVoices(useMemo(() => placingTakesOf(song, layer), [song, layer]))
  const voiceOf = useCallback<VoiceOf>(assetId => heard.get(assetId) ?? null, [heard])
  const stretch = useMemo(() => currentStretch(song, layer, selection, { fine, atFrame }, voiceOf), [song, layer, selection, fine, atFrame, voiceOf])
  const rows = useMemo(() => (stretch ? rowsOf(song, layer, stretch, { freeOnly, sideBySide }) : []), [song, layer, stretch, freeOnly, sideBySide])
  const picked = stretch ? (pickedIn(song, layer.id, stretch)?.take ?? null) : null
  const view = useMemo(() => zoom ?? (stretch ? viewOf(stretch) : { startFrame: 0, endFrame: 1 }), [zoom, stretch])
  if (!stretch) return null
  const focused = rows.find(row => focus && rowKey(row) === rowKey(focus)) ?? rows.find(row => row.layerId === layer.id && row.takeId === picked?.id) ?? rows[0] ?? null
  return { song, layer, stretch, rows, focused, picked, view, voiceOf }
}

/** Words are placed by what is picked; by the first take where nothing is. */
function placingTakesOf(song: Song, layer: Layer): Take[] {
  const first = song.takes.find(take => take.layerId === layer.id && !take.binned)
  return [...new Set([...currentComp(layer).picks.map(pick => pick.takeId), ...(first ? [first.id] : [])])].map(id => requireTake(song, id))
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
  const { data } = useQuery({ ...matchQuery(song, ground ?? null, focused, stretch), enabled: differs && equal })
  return differs && equal ? (data ?? 0) : 0
}

export function matchQuery(song: Song, ground: Take | null, row: Row | null, { startFrame, endFrame }: FrameRange) {
  return {
    queryKey: ['level-match', ground?.id, row?.takeId, startFrame, endFrame],
    queryFn: async () => {
      const [a, b] = await Promise.all([placedPeaksOf(ground!), placedPeaksOf(requireTake(song, row!.takeId))])
      return a && b ? matchGainDecibels(a, b, { startFrame, endFrame }) : 0
    },
  }
}

/** Lets the engine play what is looked at: a take in place of the comp, or another comp, in the company that was asked for. */
export function useAudition(bench: Bench, matchDecibels: number): void {
  const { song, layer, stretch, rows, focused } = bench
  const company = useBench(state => state.company)
  const against = useBench(state => state.against)
  const barBefore = useBench(state => state.barBefore)
  const index = focused ? rows.findIndex(row => rowKey(row) === rowKey(focused)) : -1
  const standby = useMemo(() => rows.slice(Math.max(0, index - STANDBY_ROWS), index + STANDBY_ROWS + 1).map(row => row.takeId), [rows, index])
  const plays = focused ? pickedIn(song, focused.layerId, stretch)?.take.id : undefined
  useEffect(() => {
    if (against?.heard) useView.setState({ view: { kind: 'comp', layerId: layer.id, compId: against.compId, with: company, standby } })
    else if (focused && focused.takeId !== plays) {
      // With the stack the take is tried in its place in the comp; alone or with the beat it is heard on both sides too.
      const within = company === 'stack' ? { within: { startFrame: stretch.startFrame, endFrame: stretch.endFrame } } : {}
      useView.setState({ view: { kind: 'audition', layerId: focused.layerId, takeId: focused.takeId, with: company, gainDecibels: matchDecibels, standby, ...within } })
    } else useView.setState({ view: { kind: 'comp', layerId: focused?.layerId ?? layer.id, compId: compOf(song, focused?.layerId ?? layer.id), with: company, standby } })
  }, [song, layer.id, focused, plays, company, matchDecibels, stretch.startFrame, stretch.endFrame, standby, against])
  useEffect(() => () => useView.setState({ view: { kind: 'song' }, loopRange: null }), [])
  const { startFrame, endFrame } = stretch
  const { grid } = song.beat
  useLayoutEffect(() => {
    const from = barBefore ? frameOfBar(grid, barAtFrame(grid, startFrame) - 1) + (startFrame - frameOfBar(grid, barAtFrame(grid, startFrame))) : startFrame
    useView.setState({ loopRange: { startFrame: from, endFrame }, cursorFrame: from })
  }, [startFrame, endFrame, barBefore, grid])
  // What was looked at in another stretch, or on another layer, is not meant here.
  const place = `${layer.id}/${startFrame}/${endFrame}`
  useEffect(() => () => setBench({ focus: null, zoom: null, seam: null }), [place])
  useEffect(() => () => setBench({ against: null }), [layer.id])
}

function compOf(song: Song, layerId: Layer['id']) {
  return song.layers.find(layer => layer.id === layerId)!.currentCompId
}
