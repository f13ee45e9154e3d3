/** The notes of a song as a Standard MIDI File: its tempo, its sections as markers, what the lead sings with its words, what each layer is to sing. */
import { beatAtFrame, frameOfBar } from '../beat/grid'
import { wordsSung } from '../mix/words-sung'
import { writePartMidi } from '../parts/midi'
import { temposOf, trackOf } from '../parts/song-midi'
import { sungNotes } from '../prints/sung-notes'
import type { PlacedPartNote } from '../song/part-schema'
import type { Layer, Song } from '../song/schema'
import { placedLines } from '../song/select'

/** @param lead Of which takes are known that were listened to; the others sing no notes here. */
export function songMidi(song: Song, lead: Layer | null): Uint8Array<ArrayBuffer> {
  const { grid, frames } = song.beat
  const origin = beatAtFrame(grid, 0)
  const sung = lead ? sungNotes(song, lead, [{ startFrame: 0, endFrame: frames }]) : []
  const words = lead ? wordsOn(song, lead, sung) : new Map<PlacedPartNote, string>()
  const tracks = [
    ...(lead && sung.length > 0 ? [trackOf(song, lead.name, sung, note => words.get(note))] : []),
    ...song.layers.filter(({ part }) => part.length > 0).map(layer => trackOf(song, `${layer.name} part`, layer.part)),
  ]
  const markers = song.sections.map(({ name, startBar }) => ({ beat: beatAtFrame(grid, frameOfBar(grid, startBar)) - origin, text: name }))
  return Uint8Array.from(writePartMidi(tracks, temposOf(song, frames), { title: song.title, markers, beatsPerBar: grid.beatsPerBar }))
}

/** Each word on the note that begins nearest to it; a note has one at most. */
function wordsOn(song: Song, lead: Layer, notes: readonly PlacedPartNote[]): Map<PlacedPartNote, string> {
  const words = new Map<PlacedPartNote, string>()
  for (const placed of placedLines(song)) {
    for (const { word, startFrame } of wordsSung(song, lead, placed)) {
      const near = notes.reduce<PlacedPartNote | null>((best, note) => (!best || apart(note, startFrame) < apart(best, startFrame) ? note : best), null)
      if (near && apart(near, startFrame) < MOST_APART_FRAMES) words.set(near, words.has(near) ? `${words.get(near)} ${word}` : word)
    }
  }
  return words
}

/** A word begins with a consonant that has no note. */
const MOST_APART_FRAMES = 24_000
const apart = (note: PlacedPartNote, frame: number) => Math.abs(note.startFrame - frame)
