/** A layer's part as a MIDI file that begins with the song, and back. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { beatAtFrame, frameOfBeat } from '../beat/grid'
import { MAX_FRAME } from '../song/fields'
import { MOST_PART_NOTES, type PlacedPartNote } from '../song/part-schema'
import type { Layer, Song } from '../song/schema'
import { readPartMidi, writePartMidi, type PartTrack, type TempoChange } from './midi'

type WordAt = (note: PlacedPartNote) => string | undefined

export function partMidi(song: Song, { name, part }: Layer, wordAt?: WordAt): Uint8Array {
  return writePartMidi([trackOf(song, name, part, wordAt)], temposOf(song, part.at(-1)?.endFrame ?? 0))
}

/** Notes of a song as a track of a file that begins with it. @param wordAt The word that begins with a note, if one does. */
export function trackOf({ beat: { grid } }: Song, name: string, notes: readonly PlacedPartNote[], wordAt: WordAt = () => undefined): PartTrack {
  const origin = beatAtFrame(grid, 0)
  return {
    name,
    notes: notes.map(note => ({
      startBeat: beatAtFrame(grid, note.startFrame) - origin,
      endBeat: beatAtFrame(grid, note.endFrame) - origin,
      midi: note.midi,
      word: wordAt(note),
    })),
  }
}

/** One for each bar, from the song's first frame on; those that say nothing new are left out. */
export function temposOf({ beat: { grid } }: Song, endFrame: number): TempoChange[] {
  const origin = beatAtFrame(grid, 0)
  const bars = Math.max(1, Math.ceil((beatAtFrame(grid, endFrame) - origin) / grid.beatsPerBar))
  const bpmFrom = (beat: number, beats: number) => (60 * SAMPLE_RATE_HZ * beats) / (frameOfBeat(grid, beat + beats) - frameOfBeat(grid, beat))
  const firstBar = Math.ceil(origin / grid.beatsPerBar) * grid.beatsPerBar
  const starts = [origin, ...Array.from({ length: bars }, (_, bar) => firstBar + bar * grid.beatsPerBar).filter(beat => beat > origin)]
  return starts
    .map((beat, i) => ({ beat: beat - origin, bpm: bpmFrom(beat, (starts[i + 1] ?? beat + grid.beatsPerBar) - beat) }))
    .filter(({ bpm }, i, all) => i === 0 || Math.abs(bpm - all[i - 1].bpm) > 1e-6)
}

/** @returns in frames of the song. @throws RangeError as `readPartMidi` does, and for more notes or a longer file than a song holds. */
export function partFromMidi(bytes: Uint8Array): PlacedPartNote[] {
  const notes = readPartMidi(bytes)
  if (notes.length > MOST_PART_NOTES) throw new RangeError(`it has ${notes.length} notes, and a part holds ${MOST_PART_NOTES} at most`)
  if (notes[notes.length - 1].endSeconds * SAMPLE_RATE_HZ > MAX_FRAME) throw new RangeError('it is longer than a song can be')
  return notes.map(({ startSeconds, endSeconds, midi }) => ({
    startFrame: Math.round(startSeconds * SAMPLE_RATE_HZ),
    endFrame: Math.max(Math.round(startSeconds * SAMPLE_RATE_HZ) + 1, Math.round(endSeconds * SAMPLE_RATE_HZ)),
    midi,
  }))
}
