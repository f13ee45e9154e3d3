/** Something heard instead of the song, as loud as the song is there: measured first, then heard, unless one has gone on meanwhile. */
import { create } from 'zustand'
import type { View } from '../../core/mix/heard'
import type { Song } from '../../core/song/schema'
import { runJob } from '../../workers/run-job'
import type { FrameRange } from '../../core/song/select'
import { currentSong } from './song-store'
import { rangeOf, useView } from './view-store'

export const useMatching = create<{ matching: boolean }>(() => ({ matching: false }))

/**
 * @param song In which both are measured: without what would hide the difference.
 * @param viewOf The view, so many decibels louder.
 * @param stretch Where both are measured; what is selected, if not given.
 */
export async function hearAsLoud(song: Song, viewOf: (gainDecibels: number) => View, stretch?: FrameRange): Promise<void> {
  if (useMatching.getState().matching) return
  useMatching.setState({ matching: true })
  const before = useView.getState().view
  const range = stretch ?? rangeOf(currentSong(), useView.getState().selection)
  const result = await runJob('compareLoudness', { song, views: [viewOf(0), { kind: 'song' }], range })
  useMatching.setState({ matching: false })
  // The room was left, or something else is heard.
  if (useView.getState().view !== before) return
  useView.setState({ view: viewOf(result.kind === 'done' ? Math.max(-12, Math.min(12, result.value)) : 0) })
}

/** The song again; what is still being measured is not heard any more. */
export function hearTheSong(): void {
  useView.setState({ view: { kind: 'song' } })
}
