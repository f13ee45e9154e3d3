/** What can be asked for; stems only of what is heard. */
import { nameOfPart, planGuides, planStems, type Part } from '../../../core/deliver/parts'
import type { Song } from '../../../core/song/schema'

export interface Choice {
  name: string
  says: string
  parts: readonly Part[]
}

export function choicesOf(song: Song): Choice[] {
  const namesOf = (parts: readonly Part[]) => shortList(parts.map(part => nameOfPart(song, part))) || 'no layer is heard yet: pick takes in Comp'
  const [roles, layers, guides] = [planStems(song, 'role'), planStems(song, 'layer'), planGuides(song)]
  const bare = layers.length > 0 ? planStems(song, 'layer', { bare: true }) : []
  return [
    { name: 'Final mix', says: 'voices and beat, as heard', parts: [{ kind: 'mix' }] },
    { name: 'Vocals alone', says: 'with their recipes and spaces', parts: [{ kind: 'vocals' }] },
    { name: 'Vocals dry', says: 'picked, tidied and tuned, without recipes and spaces', parts: [{ kind: 'vocals', dry: true }] },
    { name: 'Beat alone', says: 'at its level in the mix, as arranged', parts: [{ kind: 'beat' }] },
    { name: 'Each role', says: namesOf(roles), parts: roles },
    { name: 'Each layer', says: namesOf(layers), parts: layers },
    { name: 'Layers, spaces', says: 'each layer without spaces, and each space by itself', parts: bare },
    { name: 'Each layer dry', says: 'for a mixing friend', parts: layers.length > 0 ? planStems(song, 'layer', { dry: true }) : [] },
    { name: 'Click', says: 'a tick on every beat, to play along', parts: [{ kind: 'click' }] },
    {
      name: 'Guides',
      says: guides.length > 0 ? 'what each layer is to sing, as a tone' : 'no layer has notes to sing yet: write them in Stack',
      parts: guides,
    },
  ]
}

const MOST_NAMES = 6

function shortList(names: readonly string[]): string {
  const shown = names.slice(0, MOST_NAMES).join(', ')
  return names.length > MOST_NAMES ? `${shown} and ${names.length - MOST_NAMES} more` : shown
}
