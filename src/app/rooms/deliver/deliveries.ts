/** Deliveries of the open song: rendered in workers, whatever room is in view, and kept with the song. */
import pLimit from 'p-limit'
import { create } from 'zustand'
import type { DeliveryReport } from '../../../core/deliver/delivery'
import type { Part } from '../../../core/deliver/parts'
import { safeName, uniqueFileName } from '../../../core/files/names'
import type { Song } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { forgetDelivery, keepDelivery, keptDeliveries, type KeptDelivery } from '../../../storage/deliveries'
import type { DeliverWish, MissingResult } from '../../../workers/contract'
import { runJob } from '../../../workers/run-job'
import { useLive } from '../../song/live'
import { currentSong, useSongStore } from '../../song/song-store'

/** A part of the song, and how it was asked for. */
export interface Asked {
  part: Part
  wish: DeliverWish
  /** Without its number. */
  name: string
  /** Files that are asked for at once have one. */
  version: number
}

export type DeliveryItem = { id: string; fileName: string } & (
  | { kind: 'running'; fraction: number }
  | {
      kind: 'ready'
      /** Null where there was no more room for the file. */
      file: Blob | null
      url: string | null
      bytes: number
      report: (DeliveryReport & { renderSeconds: number }) | null
      /** Null for a song file. */
      asked: Asked | null
      madeAt: string
      /** The last step that was done to the song by then. */
      position: number
    }
  | { kind: 'empty' }
  | { kind: 'missing'; missing: MissingResult['missing']; goOn: () => void }
  | { kind: 'no-encoder' }
  | { kind: 'failed'; detail: string }
)
export type ReadyDelivery = Extract<DeliveryItem, { kind: 'ready' }>

interface Deliveries {
  items: readonly DeliveryItem[]
  /** How many are asked for and not finished. */
  pending: number
  /** Of the last of those; 0 where none is. */
  pendingVersion: number
  abort: AbortController | null
}

export const useDeliveries = create<Deliveries>(() => ({ items: [], pending: 0, pendingVersion: 0, abort: null }))

/** Begun in the order in which they were asked for: two at once, more where the machine has many cores; one while a voice is recorded. */
const MOST_AT_ONCE = Math.min(4, Math.max(2, navigator.hardwareConcurrency >> 1))
const inTurn = pLimit(MOST_AT_ONCE)
useLive.subscribe(({ recording }, before) => {
  if (recording !== before.recording) inTurn.concurrency = recording ? 1 : MOST_AT_ONCE
})

/** What the next files that are asked for are counted as. */
export function nextVersion({ items, pendingVersion }: Pick<Deliveries, 'items' | 'pendingVersion'>): number {
  return 1 + items.reduce((most, item) => Math.max(most, (item.kind === 'ready' && item.asked?.version) || 0), pendingVersion)
}

/** @param nameOf A file's name without its number. */
export function renderParts(parts: readonly Part[], wish: DeliverWish, nameOf: (part: Part) => string): void {
  const song = currentSong()
  const signal = begin()
  const version = nextVersion(useDeliveries.getState())
  useDeliveries.setState({ pendingVersion: version })
  for (const part of parts) addRender(song, { part, wish, name: nameOf(part), version }, false, signal)
}

/** The same of the song as it is now. */
export function makeAgain({ part, wish, name }: Asked): void {
  renderParts([part], wish, () => name)
}

export function forget(item: DeliveryItem): void {
  if (item.kind === 'ready' && item.url) URL.revokeObjectURL(item.url)
  drop(item.id)
  void forgetDelivery(item.id).catch(() => {})
}

function addRender(song: Song, asked: Asked, withoutMissing: boolean, signal: AbortSignal): void {
  const { part, wish, name } = asked
  const position = lastStep()
  later(name, signal, async (item, onProgress) => {
    const result = await runJob('deliver', { song, part, ...wish, withoutMissing }, { signal, onProgress })
    if (result.kind === 'cancelled') return null
    if (result.kind === 'failed') return { ...item, kind: 'failed', detail: result.detail }
    const { value } = result
    if (value.kind === 'nothing-sounds') return { ...item, kind: 'empty' }
    if (value.kind === 'no-encoder') return { ...item, kind: 'no-encoder' }
    if (value.kind === 'missing-sound')
      return { ...item, kind: 'missing', missing: value.missing, goOn: () => goOnWithout(item.id, () => addRender(song, asked, true, begin())) }
    const made = ready(item, value.file, { report: { ...value.report, renderSeconds: value.renderSeconds }, asked, position })
    keepWith(song, made)
    return made
  })
}

/** A file that there is no room for is there until the song is closed. */
function keepWith(song: Song, { id, fileName, madeAt, position, asked, report, bytes, file }: ReadyDelivery & DeliveryItem): void {
  const kept: KeptDelivery = { id, songId: song.id, version: asked!.version, madeAt, position, fileName, asked, report, bytes, file }
  void keepDelivery(kept).catch(() => keepDelivery({ ...kept, file: null }).catch(() => {}))
}

function lastStep(): number {
  return useSongStore.getState().history?.done.at(-1)?.id ?? 0
}

/** @param wish `onlyUsed`: without takes that nothing plays; `withPrints`: with what was made of them. */
export function exportSongFile({ onlyUsed = false, withPrints = false } = {}): void {
  addSongFile(currentSong(), { onlyUsed, withPrints, withoutMissing: false }, begin())
}

function addSongFile(song: Song, wish: { onlyUsed: boolean; withPrints: boolean; withoutMissing: boolean }, signal: AbortSignal): void {
  later(`${safeName(song.title)}.zip`, signal, async (item, onProgress) => {
    const result = await runJob('exportSong', { song, ...wish }, { signal, onProgress })
    if (result.kind === 'cancelled') return null
    if (result.kind === 'failed') return { ...item, kind: 'failed', detail: result.detail }
    if (result.value.kind === 'missing-sound')
      return {
        ...item,
        kind: 'missing',
        missing: result.value.missing,
        goOn: () => goOnWithout(item.id, () => addSongFile(song, { ...wish, withoutMissing: true }, begin())),
      }
    return ready(item, result.value.file, { report: null, asked: null, position: lastStep() })
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
  void inTurn(async () => {
    if (signal.aborted || !isOpen()) return
    const item: Named = {
      id: makeId(),
      fileName: uniqueFileName(
        wantedName,
        useDeliveries.getState().items.map(entry => entry.fileName),
      ),
    }
    // A row of a song that was closed meanwhile does not come back.
    const tell = (row: DeliveryItem) => isOpen() && put(row)
    tell({ ...item, kind: 'running', fraction: 0 })
    let isOver = false
    // A worker that was told to stop may still tell how far it is: no row comes back for that.
    const onProgress = (fraction: number) => isOver || tell({ ...item, kind: 'running', fraction })
    const made = await make(item, onProgress).catch((error: unknown): DeliveryItem => ({ ...item, kind: 'failed', detail: String(error) }))
    isOver = true
    if (made) tell(made)
    else drop(item.id)
  }).finally(() => count(-1))
}

function count(by: number): void {
  useDeliveries.setState(({ pending, pendingVersion }) => ({ pending: pending + by, pendingVersion: pending + by > 0 ? pendingVersion : 0 }))
}

function ready(item: Named, file: Blob, of: Pick<ReadyDelivery, 'report' | 'asked' | 'position'>): DeliveryItem & ReadyDelivery {
  return { ...item, kind: 'ready', file, url: urlToSave(file), bytes: file.size, madeAt: new Date().toISOString(), ...of }
}

/** As bytes of no kind: by its kind a browser gives a file an ending of its own, and “mix.opus” was saved as “mix.ogx”. */
function urlToSave(file: Blob): string {
  return URL.createObjectURL(file.slice(0, file.size, 'application/octet-stream'))
}

function put(item: DeliveryItem): void {
  useDeliveries.setState(({ items }) => ({
    items: items.some(entry => entry.id === item.id) ? items.map(entry => (entry.id === item.id ? item : entry)) : [item, ...items],
  }))
}

function drop(id: string): void {
  useDeliveries.setState(({ items }) => ({ items: items.filter(entry => entry.id !== id) }))
}

// What was rendered belongs to the song that was open; what was delivered of one before is there when it opens.
useSongStore.subscribe((state, before) => {
  const songId = state.history?.song.id
  if (songId === before.history?.song.id) return
  const { items, abort } = useDeliveries.getState()
  abort?.abort()
  for (const item of items) if (item.kind === 'ready' && item.url) URL.revokeObjectURL(item.url)
  useDeliveries.setState({ items: [], abort: null, pendingVersion: 0 })
  if (songId)
    void keptDeliveries(songId).then(
      kept => isOpenSong(songId) && show(kept),
      () => {},
    )
})

function isOpenSong(songId: string): boolean {
  return useSongStore.getState().history?.song.id === songId
}

/** What was made meanwhile stays above. */
function show(kept: readonly KeptDelivery[]): void {
  const before = kept.map(({ id, fileName, madeAt, position, asked, report, bytes, file }): DeliveryItem => ({
    id,
    fileName,
    kind: 'ready',
    file,
    url: file && urlToSave(file),
    bytes,
    madeAt,
    position,
    asked: asked as Asked | null,
    report: report as ReadyDelivery['report'],
  }))
  useDeliveries.setState(({ items }) => ({ items: [...items, ...before.filter(({ id }) => !items.some(item => item.id === id))] }))
}
