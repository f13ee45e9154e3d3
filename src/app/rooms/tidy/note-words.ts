/** Notes in plain words. */
import type { NoteInSong } from '../../../core/prints/laid-in'
import type { Song } from '../../../core/song/schema'
import { formatMidi } from '../../shared/format'

const LEFT_WORDS: Record<Exclude<NoteInSong['left'], null>, string> = {
  'not-tuned': 'as sung',
  near: 'near enough: left',
  'by-hand': 'moved by hand',
  'as-sung': 'left as sung',
}

/** Why a note is left; null of one that is moved. */
export function leftWords({ left }: NoteInSong): string | null {
  return left && LEFT_WORDS[left]
}

export function nameOfRung(cents: number, song: Pick<Song, 'beat'>): string {
  const midi = Math.round((cents - song.beat.tuningCents) / 100)
  return formatMidi(midi, song.beat.key)
}

/** "A♭4, 42 cents flat, drawn to it". */
export function offWords(note: NoteInSong, song: Pick<Song, 'beat'>): string {
  const { cents, targetCents } = note.note
  const rung = targetCents ?? note.rungCents
  if (rung === null) return `${nameOfRung(cents, song)}, no key is known`
  const off = Math.round(cents - rung)
  const how = off === 0 ? 'on it' : `${Math.abs(off)} cents ${off < 0 ? 'flat' : 'sharp'}`
  return `${nameOfRung(rung, song)}, ${how}, ${leftWords(note) ?? 'drawn to it'}`
}
