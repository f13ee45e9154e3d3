/** A layer as if its comp were another. */
import type { Layer, Pick } from '../song/schema'
import { currentComp } from '../song/select'

/** The layer with other picks; no other layer and no take is touched. */
export function playing(layer: Layer, picks: Pick[]): Layer {
  const current = currentComp(layer)
  return { ...layer, comps: layer.comps.map(comp => (comp === current ? { ...comp, picks } : comp)) }
}
