/** How far the lead comes out of a first mix otherwise than it was meant to: what is known of the mix says more than the dry voice. */
import type { LayerId, LineId, Song } from '../song/schema'
import { proposeFirstMix, takeProposal, type Proposed } from './first-mix'
import { linesInMix } from './lines-in-mix'
import type { MixFacts, MixSounds } from './mix-facts'

/**
 * The mix is heard as it is proposed without the ride, and once more with it: compressors give back a part of what a ride takes.
 * @returns for every line of the lead that sounds, in LU, to be handed to `proposeFirstMix`.
 */
export async function readCorrections(
  song: Song,
  leadId: LayerId,
  facts: MixFacts,
  leadOverBeatLu: number,
  sounds: Pick<MixSounds, 'store' | 'prints'>,
  onProgress: (fraction: number) => void = () => {},
): Promise<Map<LineId, number>> {
  let count = 0
  const taken = (proposals: readonly Proposed[]) => proposals.reduce((now, one) => takeProposal(now, one, () => `proposed-${count++}`), song)
  const unridden = taken(proposeFirstMix(song, facts, { leadOverBeatLu }).filter(({ kind }) => kind !== 'ride'))
  const still = { ...unridden, layers: unridden.layers.map(layer => (layer.id === leadId ? { ...layer, ride: [] } : layer)) }
  const first = await linesInMix(still, leadId, facts, leadOverBeatLu, sounds, fraction => onProgress(fraction / 2))
  const ridden = taken(proposeFirstMix(song, facts, { leadOverBeatLu, corrections: first }))
  const left = await linesInMix(ridden, leadId, facts, leadOverBeatLu, sounds, fraction => onProgress(0.5 + fraction / 2))
  return new Map([...first].map(([lineId, off]) => [lineId, off + (left.get(lineId) ?? 0)]))
}
