/** The open song: its history, and the one way to change it. Everything done is kept in storage at once. */
import { createContext, useContext, useEffect, useEffectEvent, useRef, useState } from 'react'
import { create } from 'zustand'
import { carryOut } from '../../core/song/carry-out'
import type { SongProblem } from '../../core/song/check'
import { amend, beginHistory, goTo, record, redo, undo, type History } from '../../core/song/history'
import { placeOfChange } from '../../core/song/place-of-change'
import type { Song } from '../../core/song/schema'
import type { Rescue } from '../../storage/songs'
import { currentGesture, isHeldFrom } from './gesture'
import { keep, type Keeping } from './keeper'

interface SongState {
  history: History | null
  /** A song from a later release is shown but not changed. */
  readOnly: boolean
  /** What is heard while a control is moved; not yet part of the song. */
  trial: Song | null
  keeping: Keeping
  /** The last command that was not carried out, and what stood in its way: a limit, that this tab only looks, or (null) that the command itself failed. */
  refused: { label: string; problem: SongProblem | 'only-looking' | null } | null
  /** What had to be done to open it. */
  rescue: Rescue
  /** What undo or redo has just done, and where; null a few seconds later. */
  stepped: { how: 'Undone' | 'Redone'; label: string; place: string | null } | null
}

export const useSongStore = create<SongState>(() => ({
  history: null,
  readOnly: false,
  trial: null,
  keeping: { kind: 'kept', at: null },
  refused: null,
  rescue: { kind: 'none' },
  stepped: null,
}))

export function openHistory(history: History, readOnly: boolean, rescue: Rescue = { kind: 'none' }): void {
  useSongStore.setState({ history, readOnly, trial: null, refused: null, rescue })
}

export function closeSong(): void {
  useSongStore.setState({ history: null, trial: null, stepped: null })
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

export type EditVerdict = { ok: true } | { ok: false; problem: SongProblem | null }

/** Carries out a command as one step of undo. What a held key repeats joins its first step. A song that could not be kept is refused, and the singer told. */
export function edit(label: string, command: (song: Song) => Song): EditVerdict {
  const going = isHeldFrom(gestureOfStep)
  const verdict = change(label, history => record(history, label, command(history.song), { going }))
  gestureOfStep = currentGesture()
  return verdict
}

/** As `edit`, for what must be worked out first: done anew if the song was changed meanwhile. @returns the answer of the last time. */
export async function editWith<T>(label: string, work: (song: Song) => Promise<{ song: Song; answer: T }>): Promise<T> {
  for (;;) {
    const before = currentSong()
    const { song, answer } = await work(before)
    const now = useSongStore.getState().history?.song
    if (now && now !== before && now.id === before.id) continue
    if (now === before && song !== before) edit(label, () => song)
    return answer
  }
}

/** Carries out a command that is no step of undo: a fact that came by itself, such as a recorded take. */
export function editBesideHistory(command: (song: Song) => Song): EditVerdict {
  return change(null, history => amend(history, command(history.song)))
}

/** Carries out a command after which no step goes back any more: what they would bring back is gone. */
export function editForGood(command: (song: Song) => Song): EditVerdict {
  gestureOfStep = null
  return change(null, history => beginHistory(command(history.song)))
}

export function undoStep(): void {
  const label = useSongStore.getState().history?.done.at(-1)?.label
  if (label !== undefined) stepAndSay('Undone', label, undo)
}

export function redoStep(): void {
  const label = useSongStore.getState().history?.undone[0]?.label
  if (label !== undefined) stepAndSay('Redone', label, redo)
}

/** Long enough to be read. */
const SAID_MILLISECONDS = 6_000
let saidTimer: ReturnType<typeof setTimeout> | undefined

/** What is taken back may lie out of sight: it is said what it was, and where. */
function stepAndSay(how: 'Undone' | 'Redone', label: string, go: (history: History) => History): void {
  const before = currentSong()
  stepBy(how === 'Undone' ? 'undo' : 'redo', go)
  const after = useSongStore.getState().history?.song
  if (!after || after === before) return
  clearTimeout(saidTimer)
  show({ stepped: { how, label, place: placeOfChange(before, after) } })
  saidTimer = setTimeout(() => show({ stepped: null }), SAID_MILLISECONDS)
}

/** Back, or forth again, to right after a step; null: before the first. */
export function goToStep(stepId: number | null): void {
  stepBy('go back', history => goTo(history, stepId))
}

function stepBy(name: 'undo' | 'redo' | 'go back', go: (history: History) => History): void {
  gestureOfStep = null
  change(name, go)
}

/** Plays the song as a change would make it, without making the change; null ends the trial. A change that would be refused is not tried. */
export function tryOut(command: ((song: Song) => Song) | null): void {
  const outcome = command && carryOut(beginHistory(currentSong()), history => amend(history, command(history.song)))
  show({ trial: outcome?.ok ? outcome.history.song : null })
}

export function dismissRefusal(): void {
  show({ refused: null })
}

/** The gesture in which the last step was made: while it goes on, what follows is the same step. */
let gestureOfStep: number | null = null

function change(label: string | null, next: (history: History) => History): EditVerdict {
  const { history: before, readOnly } = useSongStore.getState()
  if (!before) return { ok: false, problem: null }
  if (readOnly) {
    if (label !== null) show({ trial: null, refused: { label, problem: 'only-looking' } })
    return { ok: false, problem: null }
  }
  const outcome = carryOut(before, next)
  if (!outcome.ok) {
    if (outcome.reason === 'failed') reportError(outcome.error)
    const problem = outcome.reason === 'not-sound' ? outcome.problem : null
    show({ trial: null, refused: label === null ? null : { label, problem } })
    return { ok: false, problem }
  }
  const { history } = outcome
  if (history === before) {
    show({ trial: null })
    return { ok: true }
  }
  // Kept before it is shown: whoever draws it may fail, what was done is stored all the same.
  keep(before, history, keeping => show({ keeping }))
  show({ trial: null, history, refused: null })
  return { ok: true }
}

/** One subscriber that fails does not stop a command. */
function show(state: Partial<SongState>): void {
  try {
    useSongStore.setState(state)
  } catch (error) {
    reportError(error)
  }
}
