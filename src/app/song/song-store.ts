/** The open song: its history, and the one way to change it. Everything done is kept in storage at once. */
import { createContext, useContext, useEffect, useEffectEvent, useRef, useState } from 'react'
import { create } from 'zustand'
import { amend, record, redo, undo, type History } from '../../core/song/history'
import type { Song } from '../../core/song/schema'
import { keepHistory } from '../../storage/songs'

export type Keeping = { kind: 'kept'; at: Date | null } | { kind: 'keeping' } | { kind: 'failed'; detail: string }

interface SongState {
  history: History | null
  /** A song from a later release is shown but not changed. */
  readOnly: boolean
  /** What is heard while a control is moved; not yet part of the song. */
  trial: Song | null
  keeping: Keeping
}

export const useSongStore = create<SongState>(() => ({ history: null, readOnly: false, trial: null, keeping: { kind: 'kept', at: null } }))

export function openHistory(history: History, readOnly: boolean): void {
  useSongStore.setState({ history, readOnly, trial: null, keeping: { kind: 'kept', at: null } })
}

export function closeSong(): void {
  useSongStore.setState({ history: null, trial: null })
}

/** The open song; only to be called inside a song's rooms. */
export function currentSong(): Song {
  const { history } = useSongStore.getState()
  if (!history) throw new Error('no song is open')
  return history.song
}

/**
 * Part of the open song. The selector must give the same value for the same song, or one that is cheap to draw.
 * Kept as React state and not read from the store, so that a change can be made in a transition, which is drawn in slices.
 */
export function useSong<T>(select: (song: Song) => T): T {
  const given = useContext(ShownSong)
  const [shown, show] = useState(() => ({ song: currentSong() }))
  const asked = useRef(shown)
  const follow = useEffectEvent(() => {
    const song = useSongStore.getState().history?.song
    if (given || !song || song === asked.current.song) return
    if (isSame(select, asked.current.song, song)) asked.current.song = song
    else show((asked.current = { song }))
  })
  useEffect(() => {
    follow()
    return useSongStore.subscribe(() => follow())
  }, [])
  return select(given ?? shown.song)
}

/** Of what is no longer in the song nothing can be said: whoever shows it draws it anew, or not at all. */
function isSame(select: (song: Song) => unknown, before: Song, after: Song): boolean {
  try {
    return Object.is(select(before), select(after))
  } catch {
    return false
  }
}

/** Set where much is drawn: what lies below follows the song in slices, a moment later (see FollowLater). */
export const ShownSong = createContext<Song | null>(null)

/** Carries out a command as one step of undo. */
export function edit(label: string, command: (song: Song) => Song): void {
  change(history => record(history, label, command(history.song)))
}

/** Carries out a command that is no step of undo: recording. */
export function editBesideHistory(command: (song: Song) => Song): void {
  change(history => amend(history, command(history.song)))
}

export function undoStep(): void {
  change(undo)
}

export function redoStep(): void {
  change(redo)
}

/** Lets a change be heard without making it; null ends that. */
export function tryOut(command: ((song: Song) => Song) | null): void {
  useSongStore.setState({ trial: command ? command(currentSong()) : null })
}

let writing: Promise<void> = Promise.resolve()

function change(next: (history: History) => History): void {
  const { history: before, readOnly } = useSongStore.getState()
  if (!before || readOnly) return
  const after = next(before)
  if (after === before || after.song === before.song) return void useSongStore.setState({ trial: null })
  useSongStore.setState({ trial: null, history: after, keeping: { kind: 'keeping' } })
  writing = writing
    .then(() => keepHistory(before, after, new Date().toISOString()))
    .then(
      () => useSongStore.setState({ keeping: { kind: 'kept', at: new Date() } }),
      (error: unknown) => useSongStore.setState({ keeping: { kind: 'failed', detail: String(error) } }),
    )
}

/** Settles once everything done so far is in storage. */
export function allKept(): Promise<void> {
  return writing
}
