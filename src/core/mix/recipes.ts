/** The settings a new song starts with: the vocal recipe and the shared space. */
import type { Step } from '../effects/chain'
import { USUAL_COMPRESSOR } from '../effects/compressor'
import { USUAL_AIR, USUAL_LOW_CUT } from '../effects/filters'
import { USUAL_PLATE } from '../effects/reverb'
import type { Recipe, Space } from '../song/schema'

export const DEFAULT_RECIPE: Recipe = {
  enabled: true,
  lowCut: USUAL_LOW_CUT,
  compressor: USUAL_COMPRESSOR,
  shelf: USUAL_AIR,
}

export const DEFAULT_SPACE: Space = { name: 'Plate', ...USUAL_PLATE, gainDecibels: 0 }

/** A recipe as the row of effects that it is. */
export function stepsOf({ lowCut, compressor, shelf }: Omit<Recipe, 'enabled'>): Step[] {
  return [
    { kind: 'low-cut', ...lowCut },
    { kind: 'compressor', ...compressor },
    { kind: 'air', ...shelf },
  ]
}
