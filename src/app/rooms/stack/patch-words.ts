/** What a patch of the quilt says in words. */
import type { Mark } from '../../../core/stack/marks'
import type { Song } from '../../../core/song/schema'
import type { PatchState } from './cloth'

const STATE_WORDS: Record<PatchState, string> = {
  picked: 'picked',
  sung: 'takes wait',
  made: 'a made voice sings',
  wanted: 'wanted, nothing sung yet',
  proposed: 'nothing sung; the usual plan wants it',
  bare: 'nothing sung',
}

export function stateWords(state: PatchState, isWanted: boolean): string {
  return isWanted && state !== 'wanted' ? `${STATE_WORDS[state]}, wanted` : STATE_WORDS[state]
}

/** On the patch. */
export function markWord(mark: Mark): string {
  return mark.kind
}

/** In full. */
export function markWords({ layers }: Song, mark: Mark): string {
  switch (mark.kind) {
    case 'late':
    case 'early':
      return `${Math.round(mark.milliseconds)} ms ${mark.kind} beside the lead`
    case 'flat':
    case 'sharp':
      return `${Math.round(mark.cents)} cents ${mark.kind} beside the lead`
    case 'copy':
      return 'the lead’s own sound once more: it only gets louder, or hollow'
    case 'twice':
      return `${layers.find(({ id }) => id === mark.layerId)?.name ?? 'another layer'} plays the same recording here`
  }
}
