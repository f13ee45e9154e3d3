/** Chords read from their names: "F#m7", "B♭", "Csus4", "E dim". */
import type { ChordName, ChordQuality } from './chord-names'

const NATURALS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }
const SIGNS: Record<string, ChordQuality> = {
  '': 'major',
  maj: 'major',
  M: 'major',
  m: 'minor',
  min: 'minor',
  '-': 'minor',
  '7': 'seventh',
  maj7: 'major seventh',
  M7: 'major seventh',
  m7: 'minor seventh',
  min7: 'minor seventh',
  sus4: 'suspended',
  sus: 'suspended',
  dim: 'diminished',
  major: 'major',
  minor: 'minor',
}

/** A bass note after a slash is left out. Null for what is none of the chords that are known here. */
export function parseChord(text: string): ChordName | null {
  const match = /^([A-G])([#♯b♭]?)\s*([^/]*)(?:\/.*)?$/.exec(text.trim())
  if (!match) return null
  const [, letter, sign, kind] = match
  const quality = SIGNS[kind.trim()]
  if (!quality) return null
  const shift = sign === '' ? 0 : sign === '#' || sign === '♯' ? 1 : -1
  return { root: (NATURALS[letter] + shift + 12) % 12, quality }
}
