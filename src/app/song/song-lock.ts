/** One tab at a time works on a song: whoever opened it first holds its lock until the song or the tab is closed. */
import { create } from 'zustand'

export type LockState = 'asking' | 'mine' | 'elsewhere'

export const useSongLock = create<{ state: LockState }>(() => ({ state: 'asking' }))

/** Waits a little for a tab that is just closing, or being reloaded on a busy machine, before saying that the song is open elsewhere. */
const PATIENCE_MILLISECONDS = 1_200

const lockName = (songId: string) => `plush-layer-song-${songId}`

/** Does something to a stored song unless a tab has it open. @returns false if one has. */
export async function whileClosed(songId: string, act: () => Promise<unknown>): Promise<boolean> {
  try {
    await navigator.locks.request(lockName(songId), { signal: AbortSignal.timeout(PATIENCE_MILLISECONDS) }, act)
    return true
  } catch (error) {
    if ((error as DOMException).name === 'TimeoutError') return false
    throw error
  }
}

/** @returns gives the lock back. */
export function holdSongLock(songId: string): () => void {
  const release = new AbortController()
  useSongLock.setState({ state: 'asking' })
  const timer = setTimeout(() => useSongLock.getState().state === 'asking' && useSongLock.setState({ state: 'elsewhere' }), PATIENCE_MILLISECONDS)
  const held = async () => {
    if (release.signal.aborted) return
    useSongLock.setState({ state: 'mine' })
    await new Promise<void>(resolve => release.signal.addEventListener('abort', () => resolve(), { once: true }))
  }
  navigator.locks.request(lockName(songId), { signal: release.signal }, held).catch((error: unknown) => {
    if (!release.signal.aborted) throw error
  })
  return () => {
    clearTimeout(timer)
    release.abort()
  }
}
