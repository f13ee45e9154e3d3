/** Commands on what layers are to sing. */
import { produce } from 'immer'
import { MAX_FRAME } from '../song/fields'
import type { LayerId, Song } from '../song/schema'
import { requireLayer, type FrameRange } from '../song/select'
import { MADE_THROAT_RANGE, MOST_PART_NOTES, type Made, type PlacedPartNote } from '../song/part-schema'

/** Command: what a layer is to sing in a stretch, in the place of what was written there; none: nothing. Notes that reach out of it are cut to it. */
export function setPart(song: Song, { layerId, range, notes }: { layerId: LayerId; range: FrameRange; notes: readonly PlacedPartNote[] }): Song {
  const outside = requireLayer(song, layerId).part.flatMap(note => [
    { ...note, endFrame: Math.min(note.endFrame, range.startFrame) },
    { ...note, startFrame: Math.max(note.startFrame, range.endFrame) },
  ])
  const inside = notes.map(({ startFrame, endFrame, midi }) => ({
    startFrame: Math.max(0, Math.round(Math.max(startFrame, range.startFrame))),
    endFrame: Math.round(Math.min(endFrame, range.endFrame)),
    midi: Math.max(0, Math.min(127, Math.round(midi))),
  }))
  const all = [...outside, ...inside].filter(note => note.endFrame > note.startFrame).sort((a, b) => a.startFrame - b.startFrame)
  const apart = all.filter((note, i) => i === 0 || note.startFrame >= all[i - 1].endFrame)
  return produce(song, draft => {
    requireLayer(draft, layerId).part = apart.slice(0, MOST_PART_NOTES)
  })
}

/** Command: one note of the part higher or lower, or not sung at all (null). The same song comes back where there is none. */
export function setPartNote(song: Song, { layerId, startFrame, midi }: { layerId: LayerId; startFrame: number; midi: number | null }): Song {
  const note = requireLayer(song, layerId).part.find(entry => entry.startFrame === startFrame)
  if (!note) return song
  return setPart(song, { layerId, range: note, notes: midi === null ? [] : [{ ...note, midi }] })
}

/** 40 ms: shorter is no note. */
const LEAST_NOTE_FRAMES = 1_920

/** Command: one note of the part held to another end, as far as the next note. The same song comes back where there is none. */
export function holdPartNote(song: Song, { layerId, startFrame, endFrame }: { layerId: LayerId; startFrame: number; endFrame: number }): Song {
  const { part } = requireLayer(song, layerId)
  const at = part.findIndex(entry => entry.startFrame === startFrame)
  if (at < 0 || !Number.isFinite(endFrame)) return song
  const most = part[at + 1]?.startFrame ?? MAX_FRAME
  return produce(song, draft => {
    requireLayer(draft, layerId).part[at].endFrame = Math.min(most, Math.max(startFrame + LEAST_NOTE_FRAMES, Math.round(endFrame)))
  })
}

/** Command: where a layer plays nothing, its part is sung by a voice made from the lead; null: by nobody. */
export function setMade(song: Song, { layerId, made }: { layerId: LayerId; made: Made | null }): Song {
  const { min, max } = MADE_THROAT_RANGE
  const throat = made && (Number.isFinite(made.throatSemitones) ? made.throatSemitones : 0)
  return produce(song, draft => {
    requireLayer(draft, layerId).made = made && {
      sound: made.sound,
      throatSemitones: Math.max(min, Math.min(max, throat!)),
      seed: Math.abs(Math.round(made.seed)) % 1_000_001,
    }
  })
}
