/** What a layer sings, as whole notes on the rungs that they are meant on. */
import type { PlacedPartNote } from '../song/part-schema'
import type { Layer, Song, TakeId } from '../song/schema'
import type { FrameRange } from '../song/select'
import type { Heard } from '../song/tidy-schema'
import { notesIn } from './laid-in'

/** @param heardOf What was found in a take that the song keeps nothing of. @returns notes whose middle lies in one of the ranges, in time order. */
export function sungNotes(song: Song, layer: Layer, ranges: readonly FrameRange[], heardOf: (takeId: TakeId) => Heard | null = () => null): PlacedPartNote[] {
  const within = ({ startFrame, endFrame }: FrameRange) =>
    ranges.some(range => (startFrame + endFrame) / 2 >= range.startFrame && (startFrame + endFrame) / 2 < range.endFrame)
  return ranges
    .flatMap(range => notesIn(song, layer, range, heardOf))
    .filter((note, i, all) => within(note) && all.findIndex(other => other.startFrame === note.startFrame) === i)
    .sort((a, b) => a.startFrame - b.startFrame)
    .map(note => ({
      startFrame: Math.max(0, note.startFrame),
      endFrame: note.endFrame,
      midi: Math.round(((note.own?.rungCents ?? note.note.targetCents ?? note.rungCents ?? note.note.cents) - song.beat.tuningCents) / 100),
    }))
}
