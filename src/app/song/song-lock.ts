/** One tab at a time works on a song: whoever opened it first holds its lock until the song or the tab is closed. */
import { create } from 'zustand'

export type LockState = 'asking' | 'mine' | 'elsewhere'

export const useSongLock = create<{ state: LockState }>(() => ({ state: 'asking' }))

/** Waits a little for a tab that is just closing before saying that the song is open elsewhere. */
const PATIENCE_MILLISECONDS = 400

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
  navigator.locks.request(`plush-layer-song-${songId}`, { signal: release.signal }, held).catch((error: unknown) => {
    if (!release.signal.aborted) throw error
  })
  return () => {
    clearTimeout(timer)
    release.abort()
  }
}
