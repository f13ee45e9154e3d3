/** How low and how high a singer has sung. */
import type { PlacedPartNote } from '../song/part-schema'
import type { Song } from '../song/schema'

export interface VoiceRange {
  lowMidi: number
  highMidi: number
}

/** Shorter notes are ornaments, or mistakes of the ear. */
const LEAST_FRAMES = 7_200
/** The lowest and the highest of so few notes are no range. */
const LEAST_NOTES = 12
/** At both ends so much of the singing is left out: one squeak is no range either. */
const LEFT_OUT_SHARE = 0.01

/** From every take of the song that was listened to, bin excluded; null where too little was. */
export function voiceRange({ takes, beat }: Pick<Song, 'takes' | 'beat'>): VoiceRange | null {
  const notes = takes
    .filter(take => !take.binned && take.heard)
    .flatMap(take => take.heard!.notes.map(([start, end, , , cents]) => ({ frames: end - start, midi: (cents - beat.tuningCents) / 100 })))
    .filter(({ frames }) => frames >= LEAST_FRAMES)
    .sort((a, b) => a.midi - b.midi)
  if (notes.length < LEAST_NOTES) return null
  const all = notes.reduce((sum, { frames }) => sum + frames, 0)
  const at = (share: number) => {
    let sum = 0
    return Math.round((notes.find(({ frames }) => (sum += frames) >= share * all) ?? notes[notes.length - 1]).midi)
  }
  return { lowMidi: at(LEFT_OUT_SHARE), highMidi: at(1 - LEFT_OUT_SHARE) }
}

/** Notes of a part that lie outside what was sung. */
export function outOfRange(part: readonly PlacedPartNote[], { lowMidi, highMidi }: VoiceRange): { below: number; above: number } {
  return { below: part.filter(({ midi }) => midi < lowMidi).length, above: part.filter(({ midi }) => midi > highMidi).length }
}
