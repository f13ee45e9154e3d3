/** What Tidy looks at: a note, a mend. Never part of the song. */
import { create } from 'zustand'
import type { FrameRange } from '../../../core/song/select'
import type { MendInSong, NoteInSong } from '../../../core/prints/laid-in'

export type Reach = 'line' | 'phrase' | 'word' | 'free'

/** No phrase is raised or lowered by more, unless the singer says so. */
export const EVEN_DECIBELS = 6

interface TidyState {
  note: string | null
  mend: string | null
  /** What the layer was heard without last. */
  without: string | null
  /** How much round the note that is looked at the level and the time are for. */
  reach: Reach
  /** What was drawn freely, in frames of the song. */
  free: FrameRange | null
  /** The ladder shows the stretch, and not the whole line. */
  isNear: boolean
  /** Gains are proposed, within so many decibels. */
  evenDecibels: number | null
  /** Why something was not done. */
  hint: string | null
}

export const useTidy = create<TidyState>(() => ({
  note: null,
  mend: null,
  without: null,
  reach: 'phrase',
  free: null,
  isNear: false,
  evenDecibels: null,
  hint: null,
}))

/** A note is looked at, and no mend any more; or the other way round. */
export const lookAtNote = (note: NoteInSong) => useTidy.setState({ note: keyOfNote(note), mend: null })

export const keyOfNote = ({ takeId, note }: NoteInSong) => `${takeId} ${note.startSeconds}`
export const keyOfMend = ({ takeId, mend }: MendInSong) => `${takeId} ${mend.kind} ${mend.startFrame}`
