/** Chords by name, and their notes. */

export const CHORD_QUALITIES = ['major', 'minor', 'seventh', 'major seventh', 'minor seventh', 'suspended', 'diminished'] as const
export type ChordQuality = (typeof CHORD_QUALITIES)[number]

export interface ChordName {
  /** 0..11, C = 0. */
  root: number
  quality: ChordQuality
}

/** Semitones above the root. */
export const INTERVALS: Record<ChordQuality, readonly number[]> = {
  major: [0, 4, 7],
  minor: [0, 3, 7],
  seventh: [0, 4, 7, 10],
  'major seventh': [0, 4, 7, 11],
  'minor seventh': [0, 3, 7, 10],
  suspended: [0, 5, 7],
  diminished: [0, 3, 6],
}

/** Semitones from C of the notes of a chord. */
export function chordTones({ root, quality }: ChordName): number[] {
  return INTERVALS[quality].map(interval => (root + interval) % 12)
}
