/** Mends in plain words: what, where, why. */
import type { MendInSong } from '../../../core/prints/laid-in'
import type { MendKind } from '../../../core/song/edit-schema'
import type { Layer } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import type { PlacedWord } from '../../../core/song/words'
import { count } from '../../shared/format'

export const MEND_NAMES: Record<MendKind, string> = {
  breath: 'breath',
  ess: 'ess',
  pop: 'pop',
  rest: 'rest',
  click: 'click',
  noise: 'noise',
  clip: 'clipped',
  final: 'last sound',
  end: 'end',
}

/** Without its comma. */
export function bareWord({ word }: PlacedWord): string {
  return word.replace(/[.,;:!?]+$/, '')
}

/** "breath before ‘and’", "ess of ‘last’", "after ‘quay’". */
export function whereOf({ mend, startFrame, endFrame }: MendInSong, words: readonly PlacedWord[]): string {
  const middle = (startFrame + endFrame) / 2
  const next = words.find(word => word.startFrame >= middle - 2_400)
  const here = words.findLast(word => word.startFrame <= middle)
  const quoted = (word: PlacedWord) => `‘${bareWord(word)}’`
  if (mend.kind === 'noise') return here ? `noise after ${quoted(here)}` : next ? `noise before ${quoted(next)}` : 'noise'
  if (mend.kind === 'end' || mend.kind === 'final') return here ? `${MEND_NAMES[mend.kind]} of ${quoted(here)}` : MEND_NAMES[mend.kind]
  if (mend.kind === 'rest') return here ? `after ${quoted(here)}` : next ? `before ${quoted(next)}` : 'where nobody sings'
  if (mend.kind === 'breath') return next ? `breath before ${quoted(next)}` : here ? `breath after ${quoted(here)}` : 'breath'
  return here ? `${MEND_NAMES[mend.kind]} in ${quoted(here)}` : next ? `${MEND_NAMES[mend.kind]} before ${quoted(next)}` : MEND_NAMES[mend.kind]
}

/** The words that a stretch is about: "‘lamp’", "‘and’ to ‘quay’". */
export function whatOf({ startFrame, endFrame }: FrameRange, words: readonly PlacedWord[]): string {
  const sung = words.filter(word => (word.startFrame + word.endFrame) / 2 >= startFrame && (word.startFrame + word.endFrame) / 2 < endFrame)
  const here = sung.length > 0 ? sung : words.filter(word => word.startFrame <= endFrame && word.endFrame > startFrame)
  const [first, last] = [here[0], here.at(-1)]
  if (!first || !last) return 'this stretch'
  return first === last ? `‘${bareWord(first)}’` : `‘${bareWord(first)}’ to ‘${bareWord(last)}’`
}

export function whyOf({ mend }: MendInSong, layer: Pick<Layer, 'role'>): string {
  const isStacked = layer.role !== 'lead' && layer.role !== 'ad-lib'
  switch (mend.kind) {
    case 'breath':
      return isStacked ? 'one breath is heard, not five' : 'softer, and still there'
    case 'ess':
      return isStacked ? 'one ess is heard, not five' : 'thinner'
    case 'pop':
      return 'a thump below the voice'
    case 'rest':
      return 'nobody sings here'
    case 'click':
      return `${count(mend.endFrame - mend.startFrame, 'sample')} drawn anew`
    case 'noise':
      return mend.tone ? 'the room’s own tone in its place' : 'taken out'
    case 'clip':
      return 'cut-off tops rounded, a makeshift'
    case 'final':
      return 'one consonant is heard, not five'
    case 'end':
      return 'ends with the lead'
  }
}
