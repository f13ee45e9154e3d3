/** What comes next in someone's first song. */
import type { Song } from '../song/schema'

/** In the order in which people work. */
export const FIRST_STEPS = ['words', 'sing', 'sing-again', 'choose', 'thicken', 'tidy', 'mix', 'deliver'] as const
export type FirstStep = (typeof FIRST_STEPS)[number]

/** The first that makes sense now and is not past; null: none. */
export function nextStep(song: Song, past: readonly FirstStep[]): FirstStep | null {
  return FIRST_STEPS.find(step => !past.includes(step) && makesSense(song, step)) ?? null
}

function makesSense(song: Song, step: FirstStep): boolean {
  const takes = song.takes.filter(take => !take.binned)
  const leads = new Set(song.layers.filter(layer => layer.role === 'lead').map(layer => layer.id))
  const leadTakes = takes.filter(take => leads.has(take.layerId)).length
  switch (step) {
    case 'words':
      return takes.length === 0 && song.sections.every(section => section.lines.length === 0)
    case 'sing':
      return takes.length === 0
    case 'sing-again':
      return leadTakes === 1
    case 'choose':
      return leadTakes > 1
    case 'thicken':
    case 'tidy':
    case 'mix':
    case 'deliver':
      return takes.length > 0
  }
}
