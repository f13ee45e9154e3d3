/** Sing what is missing: the singer is taken through what of the plan nobody sang yet, one stretch after the other. View state, never part of the song. */
import { create } from 'zustand'
import { missingOf, type Missing } from '../../core/stack/wanted'
import type { LayerId, LineId, Song } from '../../core/song/schema'
import { currentSong, useSongStore } from '../song/song-store'
import { select, useView } from '../song/view-store'
import { setBooth, useBoothSettings } from './booth-settings'
import { useRecorder } from './recorder-store'

interface Queue {
  isOn: boolean
  /** In one go: a line, or as many lines of a section as follow each other. */
  by: 'line' | 'section'
  /** What is sung now, and what was before it. */
  now: Stretch | null
  before: Stretch[]
  /** Left out for this time; the plan still wants it. */
  leftOut: ReadonlySet<string>
}

interface Stretch {
  layerId: LayerId
  lineIds: LineId[]
}

export const useQueue = create<Queue>(() => ({ isOn: false, by: 'line', now: null, before: [], leftOut: new Set() }))

const nameOf = (layerId: LayerId, lineId: LineId) => `${layerId} ${lineId}`

/** What is still to be sung in this round. */
export function stillToSing(song: Song, { by, leftOut }: Pick<Queue, 'by' | 'leftOut'>): Missing[] {
  return missingOf(song, by).filter(({ layerId, lines }) => lines.some(({ line }) => !leftOut.has(nameOf(layerId, line.id))))
}

/** Begins with what is first. @param goToBooth Nothing happens where nothing is missing. */
export function singMissing(goToBooth: () => unknown): void {
  if (useRecorder.getState().phase !== 'idle') return
  useQueue.setState({ isOn: true, now: null, before: [], leftOut: new Set() })
  const [first] = stillToSing(currentSong(), useQueue.getState())
  if (!first) return endQueue()
  go(stretchOf(first))
  void goToBooth()
}

function stretchOf({ layerId, lines }: Missing): Stretch {
  return { layerId, lineIds: lines.map(({ line }) => line.id) }
}

/** The right layer and lines, a bar before them, and the lead in the headphones. */
function go(stretch: Stretch): void {
  const { preRollBars, surround } = useBoothSettings.getState()
  select(currentSong(), { kind: 'lines', lineIds: stretch.lineIds })
  useView.setState({ layerId: stretch.layerId })
  useRecorder.setState({ scope: { kind: 'selection' }, lastTakeIds: [] })
  setBooth({ preRollBars: Math.max(1, preRollBars), surround: surround === 'beat' || surround === 'comp' ? 'lead' : surround })
  useQueue.setState({ now: stretch })
}

/** The next stretch after this one that is still missing; after the last, the first that was passed over; none: all is sung. */
export function nextInQueue(): void {
  const { isOn, now, before } = useQueue.getState()
  if (!isOn || useRecorder.getState().phase !== 'idle') return
  const song = currentSong()
  const left = stillToSing(song, useQueue.getState()).filter(entry => !now || !isSame(stretchOf(entry), now))
  const place = placeIn(song, now)
  const next = left.find(entry => placeIn(song, stretchOf(entry)) > place) ?? left[0]
  if (!next) return void useQueue.setState({ now: null, before: now ? [...before, now] : before })
  useQueue.setState({ before: now ? [...before, now] : before })
  go(stretchOf(next))
}

/** In the order in which stretches are sung: layer by layer, then by the sheet. */
function placeIn({ layers, sections }: Song, stretch: Stretch | null): number {
  if (!stretch) return -1
  const lines = sections.flatMap(section => section.lines)
  return layers.findIndex(layer => layer.id === stretch.layerId) * (lines.length + 1) + lines.findIndex(line => line.id === stretch.lineIds[0])
}

function isSame(a: Stretch, b: Stretch): boolean {
  return a.layerId === b.layerId && a.lineIds[0] === b.lineIds[0]
}

/** Back to the stretch before, sung or not; one whose layer is gone is passed over. */
export function backInQueue(): void {
  const { isOn, before } = useQueue.getState()
  if (!isOn || useRecorder.getState().phase !== 'idle') return
  const { layers } = currentSong()
  const at = before.findLastIndex(stretch => layers.some(layer => layer.id === stretch.layerId))
  if (at < 0) return
  useQueue.setState({ before: before.slice(0, at) })
  go(before[at]!)
}

/** Not this one, this time. */
export function leaveOut(): void {
  const { isOn, now, leftOut } = useQueue.getState()
  if (!isOn || !now || useRecorder.getState().phase !== 'idle') return
  useQueue.setState({ leftOut: new Set([...leftOut, ...now.lineIds.map(lineId => nameOf(now.layerId, lineId))]) })
  nextInQueue()
}

/** What was left out comes again. */
export function singLeftOut(): void {
  useQueue.setState({ leftOut: new Set() })
  nextInQueue()
}

/** Another way to cut what is missing into stretches: what is sung now begins where it began. */
export function setQueueBy(by: Queue['by']): void {
  const { now } = useQueue.getState()
  useQueue.setState({ by })
  const all = stillToSing(currentSong(), useQueue.getState())
  const same = now && all.find(entry => entry.layerId === now.layerId && entry.lines.some(({ line }) => line.id === now.lineIds[0]))
  if (same && useRecorder.getState().phase === 'idle') go(stretchOf(same))
}

export function endQueue(): void {
  useQueue.setState({ isOn: false, now: null, before: [], leftOut: new Set() })
}

// Another song, or none, has another plan.
useSongStore.subscribe((state, before) => {
  if (state.history?.song.id !== before.history?.song.id) endQueue()
})
