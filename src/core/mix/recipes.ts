/** The settings a new song starts with: the vocal recipe and the shared space. Set by ear on the demo song. */
import type { Step } from '../effects/chain'
import type { Recipe, Space } from '../song/schema'

export const DEFAULT_RECIPE: Recipe = {
  enabled: true,
  lowCut: { cutoffHz: 90 },
  compressor: { thresholdDecibels: -22, ratio: 3, attackSeconds: 0.008, releaseSeconds: 0.12, makeupDecibels: 4 },
  shelf: { cornerHz: 8_000, gainDecibels: 2.5 },
}

export const DEFAULT_SPACE: Space = { name: 'Plate', decaySeconds: 1.6, preDelaySeconds: 0.02, dampingHz: 6_500, gainDecibels: 0 }

/** A recipe as the row of effects that it is. */
export function stepsOf({ lowCut, compressor, shelf }: Omit<Recipe, 'enabled'>): Step[] {
  return [
    { kind: 'low-cut', ...lowCut },
    { kind: 'compressor', ...compressor },
    { kind: 'air', ...shelf },
  ]
}
