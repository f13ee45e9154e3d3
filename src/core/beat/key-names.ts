/** Keys and their notes by name. */

export const TONICS = ['C', 'C#', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'] as const
export type Tonic = (typeof TONICS)[number]
export type Mode = 'major' | 'minor'
export interface Key {
  tonic: Tonic
  mode: Mode
}

/** A shade of major or minor that the notes show. */
export const MODE_COLOURS = ['dorian', 'harmonic minor', 'phrygian', 'mixolydian', 'lydian'] as const
export type ModeColour = (typeof MODE_COLOURS)[number]

const COLOURED: Record<ModeColour, readonly number[]> = {
  dorian: [0, 2, 3, 5, 7, 9, 10],
  'harmonic minor': [0, 2, 3, 5, 7, 8, 11],
  phrygian: [0, 1, 3, 5, 7, 8, 10],
  mixolydian: [0, 2, 4, 5, 7, 9, 10],
  lydian: [0, 2, 4, 6, 7, 9, 11],
}

/** Semitones above the tonic of the scale: the natural major or minor one, unless coloured. */
export function scaleSemitones(mode: Mode, colour: ModeColour | null = null): readonly number[] {
  if (colour) return COLOURED[colour]
  return mode === 'major' ? [0, 2, 4, 5, 7, 9, 11] : [0, 2, 3, 5, 7, 8, 10]
}

/** "F# minor": as it is typed, and read by other programs. */
export function keyName({ tonic, mode }: Key): string {
  return `${tonic} ${mode}`
}
