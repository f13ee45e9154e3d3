/** Tempo from taps of a key. */
import { median } from '../audio/statistics'

export interface TappedTempo {
  tempoBpm: number
  /** Half the range that the middle half of the tapped intervals spans, as a fraction of the median. */
  spreadFraction: number
}

export const MINIMUM_TAPS = 4

/** The tempo of at least four taps, by their median interval with outliers dropped; null for fewer. */
export function tempoFromTaps(tapSeconds: readonly number[]): TappedTempo | null {
  if (tapSeconds.length < MINIMUM_TAPS) return null
  const intervals = tapSeconds.slice(1).map((time, i) => time - tapSeconds[i])
  const middle = median(intervals)
  const kept = intervals.filter(interval => Math.abs(interval / middle - 1) < 0.25)
  if (!(middle > 0) || kept.length < MINIMUM_TAPS - 2) return null
  const sorted = [...kept].sort((a, b) => a - b)
  const spread = (sorted[Math.floor(sorted.length * 0.75)] - sorted[Math.floor(sorted.length * 0.25)]) / 2
  const mean = kept.reduce((sum, interval) => sum + interval, 0) / kept.length
  return { tempoBpm: 60 / mean, spreadFraction: spread / mean }
}
