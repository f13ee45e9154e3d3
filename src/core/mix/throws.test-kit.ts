/** Takes with what was heard in them written by hand, for tests of what is laid on words. */
import type { Song } from '../song/schema'
import { findBrokenReferences } from '../song/references'

/** In frames of the song. */
export function heardAt(song: Song, sung: readonly { take: number; phrase: readonly [number, number]; onsets: readonly number[] }[]): Song {
  const takes = song.takes.map((take, i) => {
    const own = sung.find(entry => entry.take === i)
    if (!own) return take
    const at = (frame: number) => frame - take.originFrame
    const notes = own.onsets.map((onset, n): [number, number, number, number, number, number, number] => {
      const end = own.onsets[n + 1] ?? own.phrase[1]
      return [at(onset), at(end), at(onset), at(end), 6_000, 0, 0]
    })
    const none: [number, number][] = []
    return {
      ...take,
      heard: {
        frames: take.endFrame - take.originFrame,
        phrases: [[at(own.phrase[0]), at(own.phrase[1])] as [number, number]],
        breaths: none,
        esses: none,
        pops: none,
        clicks: none,
        noises: none,
        finals: none,
        clipped: none,
        notes,
      },
    }
  })
  return { ...song, takes }
}

export function hasBrokenReference(song: Song): boolean {
  return findBrokenReferences(song).length > 0
}
