/** Deliveries of the open song: rendered one after the other in a worker, kept while the song is open, whatever room is in view. */
import { create } from 'zustand'
import type { DeliveryReport } from '../../../core/deliver/delivery'
import type { Part } from '../../../core/deliver/parts'
import { safeName, uniqueFileName } from '../../../core/files/names'
import type { Song } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import type { DeliverWish, MissingResult } from '../../../workers/contract'
import { runJob } from '../../../workers/run-job'
import { currentSong, useSongStore } from '../../song/song-store'

export type DeliveryItem = { id: string; fileName: string } & (
  | { kind: 'running'; fraction: number }
  | { kind: 'ready'; url: string; bytes: number; report: (DeliveryReport & { renderSeconds: number }) | null }
  | { kind: 'empty' }
  | { kind: 'missing'; missing: MissingResult['missing']; goOn: () => void }
  | { kind: 'failed'; detail: string }
)

interface Deliveries {
  items: readonly DeliveryItem[]
  /** How many are asked for and not finished. */
  pending: number
  abort: AbortController | null
}

export const useDeliveries = create<Deliveries>(() => ({ items: [], pending: 0, abort: null }))

/** One after the other, as they were asked for. */
let queue: Promise<void> = Promise.resolve()

/** @param nameOf A file's name without its number. */
export function renderParts(parts: readonly Part[], wish: DeliverWish, nameOf: (part: Part) => string): void {
  const song = currentSong()
  const signal = begin()
  for (const part of parts) addRender(song, part, wish, nameOf(part), false, signal)
}

function addRender(song: Song, part: Part, wish: DeliverWish, name: string, withoutMissing: boolean, signal: AbortSignal): void {
  later(name, signal, async (item, onProgress) => {
    const result = await runJob('deliver', { song, part, ...wish, withoutMissing }, { signal, onProgress })
    if (result.kind === 'cancelled') return null
    if (result.kind === 'failed') return { ...item, kind: 'failed', detail: result.detail }
    const { value } = result
    if (value.kind === 'nothing-sounds') return { ...item, kind: 'empty' }
    if (value.kind === 'missing-sound')
      return { ...item, kind: 'missing', missing: value.missing, goOn: () => goOnWithout(item.id, () => addRender(song, part, wish, name, true, begin())) }
    return ready(item, value.file, { ...value.report, renderSeconds: value.renderSeconds })
  })
}

export function exportSongFile(): void {
  addSongFile(currentSong(), false, begin())
}

function addSongFile(song: Song, withoutMissing: boolean, signal: AbortSignal): void {
  later(`${safeName(song.title)}.zip`, signal, async (item, onProgress) => {
    const result = await runJob('exportSong', { song, withoutMissing }, { signal, onProgress })
    if (result.kind === 'cancelled') return null
    if (result.kind === 'failed') return { ...item, kind: 'failed', detail: result.detail }
    if (result.value.kind === 'missing-sound')
      return { ...item, kind: 'missing', missing: result.value.missing, goOn: () => goOnWithout(item.id, () => addSongFile(song, true, begin())) }
    return ready(item, result.value.file, null)
  })
}

export function cancelDeliveries(): void {
  useDeliveries.getState().abort?.abort()
}

function begin(): AbortSignal {
  const { abort } = useDeliveries.getState()
  if (abort && !abort.signal.aborted) return abort.signal
  const next = new AbortController()
  useDeliveries.setState({ abort: next })
  return next.signal
}

function goOnWithout(id: string, again: () => void): void {
  drop(id)
  again()
}

type Named = Pick<DeliveryItem, 'id' | 'fileName'>

/** @param make Gives the finished row; null if it was cancelled. */
function later(wantedName: string, signal: AbortSignal, make: (item: Named, onProgress: (fraction: number) => void) => Promise<DeliveryItem | null>): void {
  const songId = currentSong().id
  const isOpen = () => useSongStore.getState().history?.song.id === songId
  count(1)
  queue = queue
    .then(async () => {
      if (signal.aborted || !isOpen()) return
      const item: Named = {
        id: makeId(),
        fileName: uniqueFileName(
          wantedName,
          useDeliveries.getState().items.map(entry => entry.fileName),
        ),
      }
      const show = (row: DeliveryItem) => {
        // A row of a song that was closed meanwhile does not come back.
        if (isOpen()) put(row)
      }
      show({ ...item, kind: 'running', fraction: 0 })
      let isOver = false
      // A worker that was told to stop may still tell how far it is: no row comes back for that.
      const onProgress = (fraction: number) => isOver || show({ ...item, kind: 'running', fraction })
      const made = await make(item, onProgress).catch((error: unknown): DeliveryItem => ({ ...item, kind: 'failed', detail: String(error) }))
      isOver = true
      if (made) show(made)
      else drop(item.id)
    })
    .finally(() => count(-1))
}

function count(by: number): void {
  useDeliveries.setState(({ pending }) => ({ pending: pending + by }))
}

function ready(item: Named, file: Blob, report: (DeliveryReport & { renderSeconds: number }) | null): DeliveryItem {
  return { ...item, kind: 'ready', url: URL.createObjectURL(file), bytes: file.size, report }
}

function put(item: DeliveryItem): void {
  useDeliveries.setState(({ items }) => ({
    items: items.some(entry => entry.id === item.id) ? items.map(entry => (entry.id === item.id ? item : entry)) : [item, ...items],
  }))
}

function drop(id: string): void {
  useDeliveries.setState(({ items }) => ({ items: items.filter(entry => entry.id !== id) }))
}

// What was rendered belongs to the song that was open.
useSongStore.subscribe((state, before) => {
  if (state.history?.song.id === before.history?.song.id) return
  const { items, abort } = useDeliveries.getState()
  abort?.abort()
  for (const item of items) if (item.kind === 'ready') URL.revokeObjectURL(item.url)
  useDeliveries.setState({ items: [], abort: null })
})
