/** The settings a new song starts with: the vocal recipe and the shared space. */
import { USUAL_COMPRESSOR } from '../effects/compressor'
import { USUAL_AIR, USUAL_LOW_CUT } from '../effects/filters'
import { USUAL_PLATE } from '../effects/reverb'
import type { Recipe, Space } from './schema'

export const DEFAULT_RECIPE: Recipe = {
  enabled: true,
  lowCut: USUAL_LOW_CUT,
  compressor: USUAL_COMPRESSOR,
  shelf: USUAL_AIR,
}

export const DEFAULT_SPACE: Space = { name: 'Plate', ...USUAL_PLATE, gainDecibels: 0 }
