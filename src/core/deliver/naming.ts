/** What files of a song are called, and what they say of themselves. */
import { keyName } from '../beat/key-names'
import { nameByPattern, type NamePieces } from '../files/names'
import type { Song } from '../song/schema'
import { plainLyrics } from './beside'
import type { DeliveryTags } from './encoders'

export interface Naming {
  /** Of pieces in braces, see `NAME_PIECES`, and words of one's own. */
  pattern: string
  artist: string
  /** An ISO day. */
  date: string
  version: number
}

export function fileNameOf(song: Song, part: string, ending: string, { pattern, artist, date, version }: Naming): string {
  const { grid, key } = song.beat
  const pieces: NamePieces = {
    title: song.title,
    artist,
    part,
    tempo: `${roundTempo(grid.tempoBpm)} bpm`,
    key: key ? keyName(key) : '',
    date,
    version: `v${version}`,
  }
  return nameByPattern(pattern, pieces, ending)
}

/** @param own What the singer says of all files. */
export function tagsOf(song: Song, own: Pick<DeliveryTags, 'artist' | 'album' | 'year' | 'cover'>): DeliveryTags {
  const { grid, key } = song.beat
  return { title: song.title, ...own, lyrics: plainLyrics(song), tempoBpm: grid.tempoBpm, ...(key ? { key: keyName(key) } : {}) }
}

function roundTempo(bpm: number): number {
  return Math.round(bpm * 100) / 100
}
