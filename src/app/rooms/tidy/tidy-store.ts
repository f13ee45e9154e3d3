/** What Tidy looks at: a note, a mend. Never part of the song. */
import { create } from 'zustand'
import type { MendInSong, NoteInSong } from '../../../core/prints/laid-in'

interface TidyState {
  note: string | null
  mend: string | null
  /** Why something was not done. */
  hint: string | null
}

export const useTidy = create<TidyState>(() => ({ note: null, mend: null, hint: null }))

export const keyOfNote = ({ takeId, note }: NoteInSong) => `${takeId} ${note.startSeconds}`
export const keyOfMend = ({ takeId, mend }: MendInSong) => `${takeId} ${mend.kind} ${mend.startFrame}`
