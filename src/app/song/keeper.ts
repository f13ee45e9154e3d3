/** Writes the open song's history to storage as it changes; what cannot be written is tried again with all that memory holds. */
import type { History } from '../../core/song/history'
import type { SongId } from '../../core/song/schema'
import { keepHistory } from '../../storage/songs'

export type Keeping = { kind: 'kept'; at: Date | null } | { kind: 'keeping' } | { kind: 'failed'; detail: string }

const AGAIN_MILLISECONDS = 2_000

interface Waiting {
  /** What is stored for sure; null after a failure. */
  stored: History | null
  now: History
}

const waiting = new Map<SongId, Waiting>()
const waitingUntilKept: (() => void)[] = []
let writing = false

const unsure = new Set<SongId>()

/** What is stored of a song is not what was opened: the next write writes all of it. */
export function distrustStored(songId: SongId): void {
  unsure.add(songId)
}

/** @param before As it was when the change came: known to be stored, unless an earlier write still waits. */
export function keep(before: History, now: History, onKeeping: (keeping: Keeping) => void): void {
  const earlier = waiting.get(now.song.id)
  const stored = unsure.delete(now.song.id) ? null : before
  waiting.set(now.song.id, { stored: earlier ? earlier.stored : stored, now })
  onKeeping({ kind: 'keeping' })
  if (!writing) void writeAll(onKeeping)
}

/** Settles once nothing waits to be written, or writing fails. */
export function keptSoFar(): Promise<void> {
  return writing ? new Promise(resolve => waitingUntilKept.push(resolve)) : Promise.resolve()
}

async function writeAll(onKeeping: (keeping: Keeping) => void): Promise<void> {
  writing = true
  for (let [next] = waiting; next; [next] = waiting) {
    const [songId, { stored, now }] = next
    try {
      await keepHistory(stored, now, new Date().toISOString())
      const later = waiting.get(songId)!
      if (later.now === now) waiting.delete(songId)
      else waiting.set(songId, { stored: now, now: later.now })
    } catch (error) {
      // Of a write that failed nothing is sure: the next one writes all.
      waiting.set(songId, { stored: null, now: waiting.get(songId)!.now })
      onKeeping({ kind: 'failed', detail: String(error) })
      tellWaiting()
      await new Promise(resolve => setTimeout(resolve, AGAIN_MILLISECONDS))
    }
  }
  writing = false
  onKeeping({ kind: 'kept', at: new Date() })
  tellWaiting()
}

function tellWaiting(): void {
  for (const settle of waitingUntilKept.splice(0)) settle()
}
