/** Notes played on keys, as a part: one voice, so a new key ends the one before. */
import type { PlacedPartNote } from '../song/part-schema'

/** A key that is held. */
export interface HeldKey {
  midi: number
  startFrame: number
}

/** Shorter touches are no notes: 40 ms. */
const LEAST_FRAMES = 1_920

/** What a key that is let go leaves; null for a mere touch, or where the transport went back meanwhile. */
export function noteOfKey({ midi, startFrame }: HeldKey, endFrame: number): PlacedPartNote | null {
  return endFrame - startFrame >= LEAST_FRAMES && midi >= 0 && midi <= 127 ? { midi, startFrame: Math.round(startFrame), endFrame: Math.round(endFrame) } : null
}

/** A note that was played takes the place of what it covers by more than half, and cuts what it touches. */
export function withPlayed(part: readonly PlacedPartNote[], played: PlacedPartNote): PlacedPartNote[] {
  const kept = part.flatMap(note => {
    const overlap = Math.min(note.endFrame, played.endFrame) - Math.max(note.startFrame, played.startFrame)
    if (overlap <= 0) return [note]
    if (overlap > (note.endFrame - note.startFrame) / 2) return []
    return note.startFrame < played.startFrame ? [{ ...note, endFrame: played.startFrame }] : [{ ...note, startFrame: played.endFrame }]
  })
  return [...kept, played].sort((a, b) => a.startFrame - b.startFrame)
}

/** A computer's keys as a piano's: the middle row white, the one above black. Semitones above the C that is set. */
export const PIANO_KEYS: Readonly<Record<string, number>> = {
  a: 0,
  w: 1,
  s: 2,
  e: 3,
  d: 4,
  f: 5,
  t: 6,
  g: 7,
  y: 8,
  h: 9,
  u: 10,
  j: 11,
  k: 12,
  o: 13,
  l: 14,
  p: 15,
}

/** What a MIDI keyboard says: a key goes down or up; null for all else. @see MIDI 1.0, channel voice messages. */
export function readKeyMessage(bytes: Uint8Array): { midi: number; isDown: boolean } | null {
  const [status, midi, velocity] = bytes
  const kind = status & 0xf0
  if (bytes.length < 3 || (kind !== 0x90 && kind !== 0x80)) return null
  return { midi, isDown: kind === 0x90 && velocity > 0 }
}
