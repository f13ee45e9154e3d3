/** How loud a voice is to be, line by line. */
import { median } from '../audio/statistics'
import type { LineId } from '../song/schema'
import type { BeatLine } from './mix-facts'

/** Where the beat falls away by more than this, the voice does not follow: over a few soft notes it is sung to be heard. */
export const MOST_FOLLOWED_DECIBELS = 4

/** @returns LUFS: so much over the beat's voice band, and where the beat rests no softer than it is followed. Empty where the beat is silent throughout. */
export function aimedLoudness(beat: readonly BeatLine[], overBeatLu: number): Map<LineId, number> {
  const least = leastFollowed(beat)
  return new Map(least === null ? [] : beat.map(({ lineId, lufs }) => [lineId, Math.max(lufs, least) + overBeatLu]))
}

/** Under how many lines the beat falls further than it is followed. */
export function restingLines(beat: readonly BeatLine[]): number {
  const least = leastFollowed(beat)
  return least === null ? 0 : beat.filter(({ lufs }) => lufs < least).length
}

function leastFollowed(beat: readonly BeatLine[]): number | null {
  const heard = beat.map(({ lufs }) => lufs).filter(Number.isFinite)
  return heard.length > 0 ? median(heard) - MOST_FOLLOWED_DECIBELS : null
}
