/** Deliveries of this visit: rendered one after the other in a worker, offered as files. */
import { useEffect, useRef, useState } from 'react'
import { deliveryFileName, safeName } from '../../../core/files/names'
import { planDelivery } from '../../../core/mix/plan'
import type { DeliveryReport } from '../../../core/files/delivery'
import { makeId } from '../../../storage/database'
import { runJob } from '../../../workers/run-job'
import { currentSong } from '../../song/song-store'

export type Part = 'mix' | 'vocals' | 'beat'

export type DeliveryItem = { id: string; fileName: string } & (
  | { kind: 'running'; fraction: number }
  | { kind: 'ready'; url: string; bytes: number; report: (DeliveryReport & { renderSeconds: number }) | null }
  | { kind: 'empty' }
  | { kind: 'failed'; detail: string }
)

const PART_NAMES: Record<Part, string> = { mix: 'mix', vocals: 'vocals', beat: 'beat' }

export function useDeliveries() {
  const [items, setItems] = useState<DeliveryItem[]>([])
  const abort = useRef<AbortController | null>(null)
  const urls = useRef<string[]>([])
  useEffect(() => () => {
    abort.current?.abort()
    urls.current.forEach(url => URL.revokeObjectURL(url))
  }, [])
  const put = (item: DeliveryItem) => setItems(before => (before.some(entry => entry.id === item.id) ? before.map(entry => (entry.id === item.id ? item : entry)) : [item, ...before]))
  const drop = (id: string) => setItems(before => before.filter(entry => entry.id !== id))
  const ready = (id: string, fileName: string, file: Blob, report: (DeliveryReport & { renderSeconds: number }) | null) => {
    const url = URL.createObjectURL(file)
    urls.current.push(url)
    put({ id, fileName, kind: 'ready', url, bytes: file.size, report })
  }
  const render = async (parts: Part[], sampleRateHz: 44_100 | 48_000) => {
    abort.current = new AbortController()
    const { signal } = abort.current
    const song = currentSong()
    for (const part of parts) {
      if (signal.aborted) break
      const id = makeId()
      const fileName = deliveryFileName(song.title, PART_NAMES[part], 'wav')
      put({ id, fileName, kind: 'running', fraction: 0 })
      const result = await runJob('deliver', { plan: planDelivery(song, part), sampleRateHz }, { signal, onProgress: fraction => put({ id, fileName, kind: 'running', fraction }) })
      if (result.kind === 'cancelled') drop(id)
      else if (result.kind === 'failed') put({ id, fileName, kind: 'failed', detail: result.detail })
      else if (result.value.kind === 'nothing-sounds') put({ id, fileName, kind: 'empty' })
      else ready(id, fileName, result.value.file, { ...result.value.report, renderSeconds: result.value.renderSeconds })
    }
  }
  const exportSong = async () => {
    abort.current = new AbortController()
    const { signal } = abort.current
    const song = currentSong()
    const id = makeId()
    const fileName = `${safeName(song.title)}.zip`
    put({ id, fileName, kind: 'running', fraction: 0 })
    const result = await runJob('exportSong', { song }, { signal, onProgress: fraction => put({ id, fileName, kind: 'running', fraction }) })
    if (result.kind === 'done') ready(id, fileName, result.value, null)
    else if (result.kind === 'cancelled') drop(id)
    else put({ id, fileName, kind: 'failed', detail: result.detail })
  }
  return { items, busy: items.some(item => item.kind === 'running'), render, exportSong, cancel: () => abort.current?.abort() }
}
