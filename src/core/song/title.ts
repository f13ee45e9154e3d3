/** The song's name. */
import type { Song } from './schema'

/** Command: another name; an empty one changes nothing. */
export function setTitle(song: Song, title: string): Song {
  const kept = title.trim().slice(0, 120)
  return kept && kept !== song.title ? { ...song, title: kept } : song
}
