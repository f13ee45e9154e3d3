/** A recipe as the row of effects that it is. */
import type { Step } from '../effects/chain'
import type { Recipe } from '../song/schema'

export function stepsOf({ lowCut, compressor, shelf }: Omit<Recipe, 'enabled'>): Step[] {
  return [
    { kind: 'low-cut', ...lowCut },
    { kind: 'compressor', ...compressor },
    { kind: 'air', ...shelf },
  ]
}
