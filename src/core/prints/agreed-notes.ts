/** Notes on which the other takes of a layer agree: meant off the scale, or meant elsewhere than they are drawn to. */
import { median } from '../audio/statistics'
import type { GuideNote } from '../tune/targets'
import type { NoteInSong } from './laid-in'

export interface AgreedNote {
  note: NoteInSong
  /** How many other takes sing it so. */
  takes: number
  /** Off its rung in all of them: it is to be left; or where they sing it, and it is to be drawn there. */
  kind: 'meant' | 'elsewhere'
  /** Where the others sing it: a rung, if it is meant elsewhere. */
  cents: number
}

/** Another take's note sounds together with so much of it. */
const LEAST_TOGETHER = 0.5
const LEAST_TAKES = 2
/** So many of those that sing anything there. */
const LEAST_SHARE = 2 / 3
/** Takes agree within this. */
const ALIKE_CENTS = 30
/** Nearer to its rung than this, a note is on it. */
const OFF_CENTS = 30

/** What most of the other takes sing where a note is; null where they do not agree, or too few sing. */
export function agreementOn(note: GuideNote, others: readonly (readonly GuideNote[])[]): { takes: number; cents: number } | null {
  const sung = others.flatMap(notes => {
    const together = (other: GuideNote) => Math.min(note.endFrame, other.endFrame) - Math.max(note.startFrame, other.startFrame)
    const most = notes.reduce<GuideNote | null>((best, other) => (!best || together(other) > together(best) ? other : best), null)
    return most && together(most) >= LEAST_TOGETHER * (note.endFrame - note.startFrame) ? [most.cents] : []
  })
  if (sung.length < LEAST_TAKES) return null
  const middle = median(sung)
  const alike = sung.filter(cents => Math.abs(cents - middle) <= ALIKE_CENTS)
  return alike.length >= LEAST_TAKES && alike.length >= LEAST_SHARE * sung.length ? { takes: alike.length, cents: median(alike) } : null
}

/**
 * @param notes Of what is played; those for which the singer has decided already are passed over.
 * @param others The notes of each other take, in frames of the song.
 * @param rungOf The nearest rung of a pitch.
 */
export function agreedNotes(notes: readonly NoteInSong[], others: readonly (readonly GuideNote[])[], rungOf: (cents: number) => number): AgreedNote[] {
  return notes.flatMap((note): AgreedNote[] => {
    const { cents, targetCents } = note.note
    if (note.own || targetCents === null) return []
    const agreed = agreementOn({ startFrame: note.startFrame, endFrame: note.endFrame, cents }, others)
    if (!agreed) return []
    const { takes } = agreed
    if (
      Math.abs(cents - targetCents) >= OFF_CENTS &&
      Math.abs(agreed.cents - cents) <= ALIKE_CENTS &&
      Math.abs(agreed.cents - rungOf(agreed.cents)) >= OFF_CENTS
    )
      return [{ note, takes, kind: 'meant', cents: agreed.cents }]
    const rung = rungOf(agreed.cents)
    return rung !== targetCents && Math.abs(agreed.cents - rung) < OFF_CENTS ? [{ note, takes, kind: 'elsewhere', cents: rung }] : []
  })
}
