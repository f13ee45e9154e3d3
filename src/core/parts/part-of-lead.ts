/** A part for a layer of the song, from what the lead sings there. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { frameOfBeat } from '../beat/grid'
import type { PlacedPartNote } from '../song/part-schema'
import type { LayerId, Song } from '../song/schema'
import type { FrameRange } from '../song/select'
import { heldPart, makePart, type PartKind, type PlacedChord, type Reading } from './part'

export interface PartWish {
  kind: PartKind
  reading?: Reading
  /** Whose parts are not to clash with it. */
  layerId?: LayerId
}

/** The lead's notes as it is meant, in frames of the song and in order; what lies over the one before is cut. @returns none without a key. */
export function partOfLead(song: Song, lead: readonly PlacedPartNote[], { kind, reading = 'steps', layerId }: PartWish): PlacedPartNote[] {
  const { key, colour } = song.beat
  if (!key) return []
  const apart = lead
    .map((note, i) => ({ ...note, endFrame: Math.min(note.endFrame, lead[i + 1]?.startFrame ?? Infinity) }))
    .filter(note => note.endFrame > note.startFrame)
  const others = song.layers.filter(({ id }) => id !== layerId).flatMap(layer => layer.part.map(inSeconds))
  const part = makePart(apart.map(inSeconds), kind, { key, colour, chords: chordsOf(song), reading, others })
  return apart.map((note, i) => ({ ...note, midi: part[i].midi })).filter(({ midi }) => midi >= 0 && midi <= 127)
}

/** A note of each of the beat's chords, held over stretches of the song: no lead is needed. @returns none without chords. */
export function heldPartOf(song: Song, stretches: readonly FrameRange[], nearMidi: number): PlacedPartNote[] {
  const seconds = stretches.map(({ startFrame, endFrame }) => ({ startSeconds: startFrame / SAMPLE_RATE_HZ, endSeconds: endFrame / SAMPLE_RATE_HZ }))
  return heldPart(seconds, chordsOf(song), nearMidi).map(({ startSeconds, endSeconds, midi }) => ({
    startFrame: Math.round(startSeconds * SAMPLE_RATE_HZ),
    endFrame: Math.round(endSeconds * SAMPLE_RATE_HZ),
    midi,
  }))
}

function inSeconds({ startFrame, endFrame, midi }: PlacedPartNote) {
  return { startSeconds: startFrame / SAMPLE_RATE_HZ, endSeconds: endFrame / SAMPLE_RATE_HZ, midi }
}

function chordsOf({ beat: { chords, grid } }: Song): PlacedChord[] {
  return chords.map(({ root, quality, startBeat, beatCount }) => ({
    root,
    quality,
    startSeconds: frameOfBeat(grid, startBeat) / SAMPLE_RATE_HZ,
    endSeconds: frameOfBeat(grid, startBeat + beatCount) / SAMPLE_RATE_HZ,
  }))
}
