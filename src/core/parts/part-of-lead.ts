/** A part for a layer of the song, from what the lead sings there. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { frameOfBeat } from '../beat/grid'
import type { PlacedPartNote } from '../song/part-schema'
import type { Song } from '../song/schema'
import { makePart, type PartKind, type PlacedChord } from './part'

/** The lead's notes as it is meant, in frames of the song and in order; what lies over the one before is cut. @returns none without a key. */
export function partOfLead(song: Song, lead: readonly PlacedPartNote[], kind: PartKind): PlacedPartNote[] {
  const { key, colour } = song.beat
  if (!key) return []
  const apart = lead
    .map((note, i) => ({ ...note, endFrame: Math.min(note.endFrame, lead[i + 1]?.startFrame ?? Infinity) }))
    .filter(note => note.endFrame > note.startFrame)
  const notes = apart.map(({ startFrame, endFrame, midi }) => ({ startSeconds: startFrame / SAMPLE_RATE_HZ, endSeconds: endFrame / SAMPLE_RATE_HZ, midi }))
  const part = makePart(notes, kind, { key, colour, chords: chordsOf(song) })
  return apart.map((note, i) => ({ ...note, midi: part[i].midi })).filter(({ midi }) => midi >= 0 && midi <= 127)
}

function chordsOf({ beat: { chords, grid } }: Song): PlacedChord[] {
  return chords.map(({ root, quality, startBeat, beatCount }) => ({
    root,
    quality,
    startSeconds: frameOfBeat(grid, startBeat) / SAMPLE_RATE_HZ,
    endSeconds: frameOfBeat(grid, startBeat + beatCount) / SAMPLE_RATE_HZ,
  }))
}
