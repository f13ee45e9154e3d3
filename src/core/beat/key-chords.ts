/** What the chords of a beat say of its key: how much each degree sounds, as major, minor or diminished, in beats of a major or a minor key. */
import type { ChordSpan } from './chords'
import { INTERVALS, type ChordQuality } from './chord-names'
import type { Mode } from './key-names'

/** Natural logarithms of the shares, by semitones above the tonic; counted on 280 composed beats by the chords that were heard in them. */
const LOG_SHARES: Record<Mode, { major: readonly number[]; minor: readonly number[]; diminished: readonly number[] }> = {
  major: {
    major: [-0.9, -8.66, -6.73, -8.66, -4.71, -1.61, -8.66, -1.98, -7.52, -6.84, -3.66, -8.66],
    minor: [-8.05, -8.66, -2.99, -8.66, -3.02, -4.5, -8.66, -6.9, -8.66, -2.27, -8.66, -6.91],
    diminished: [-8.66, -8.66, -8.66, -8.66, -8.66, -8.66, -8.66, -8.66, -8.66, -7.82, -8.66, -6.86],
  },
  minor: {
    major: [-4.55, -3.71, -9.02, -3.01, -8.35, -3.06, -9.02, -2.99, -1.98, -9.02, -2.17, -9.02],
    minor: [-0.85, -9.02, -7.41, -8.32, -8.02, -2.25, -9.02, -3.93, -6.28, -7.75, -6.93, -8.33],
    diminished: [-9.02, -9.02, -5.97, -9.02, -9.02, -8.04, -7.99, -9.02, -6.76, -8.41, -9.02, -7.64],
  },
}

/** @returns The mean log share of the chords for each key, weighted by their lengths: C major, C minor, C♯ major and so on; null without chords. */
export function weighKeysByChords(chords: readonly ChordSpan[]): number[] | null {
  const total = chords.reduce((sum, { chord, beatCount }) => sum + (chord ? beatCount : 0), 0)
  if (total === 0) return null
  return Array.from({ length: 24 }, (_, i) => {
    const shares = LOG_SHARES[i % 2 === 0 ? 'major' : 'minor']
    return chords.reduce(
      (sum, { chord, beatCount }) => (chord ? sum + (beatCount / total) * shares[colourOf(chord.quality)][(chord.root - (i >> 1) + 12) % 12] : sum),
      0,
    )
  })
}

function colourOf(quality: ChordQuality): 'major' | 'minor' | 'diminished' {
  const intervals = INTERVALS[quality]
  if (!intervals.includes(3)) return 'major'
  return intervals.includes(6) ? 'diminished' : 'minor'
}
