/** What is kept of a take's analysis with the song. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { Song, Take } from '../song/schema'
import { currentComp } from '../song/select'
import type { Heard } from '../song/tidy-schema'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import { readNotes } from '../voice/notes'
import type { Stretch } from '../voice/phrases'

/** @param frames Length of the take's sound. */
export function heardOf(analysis: VoiceAnalysis, frames: number): Heard {
  const frame = (seconds: number) => Math.max(0, Math.min(frames, Math.round(seconds * SAMPLE_RATE_HZ)))
  const pairs = (stretches: readonly Stretch[]) =>
    stretches.map(({ startSeconds, endSeconds }): [number, number] => [frame(startSeconds), frame(endSeconds)]).filter(([start, end]) => end > start)
  const tenth = (value: number) => Math.round(value * 10) / 10
  return {
    frames,
    phrases: pairs(analysis.phrases),
    breaths: pairs(analysis.breaths),
    esses: pairs(analysis.esses),
    pops: pairs(analysis.pops),
    clicks: pairs(analysis.clicks),
    notes: readNotes(analysis).map(note => [
      frame(note.startSeconds),
      frame(note.endSeconds),
      frame(note.heldFromSeconds),
      frame(note.heldToSeconds),
      tenth(note.cents),
      tenth(note.vibratoCents),
      tenth(note.vibratoHz),
    ]),
  }
}

/** Takes that a tidied or tuned layer plays, and of which nothing is kept yet. */
export function unheardTakes({ layers, takes }: Pick<Song, 'layers' | 'takes'>): Take[] {
  const played = new Set(layers.filter(({ tidy, tune }) => tidy || tune).flatMap(layer => currentComp(layer).picks.map(pick => pick.takeId)))
  return takes.filter(take => take.heard === null && played.has(take.id))
}
