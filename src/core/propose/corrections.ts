/** How far the lead comes out of a first mix otherwise than it was meant to: what is known of the mix says more than the dry voice. */
import type { LayerId, Song } from '../song/schema'
import { proposeFirstMix, takeProposal, type Corrections, type Proposed } from './first-mix'
import { linesInMix } from './lines-in-mix'
import type { MixFacts, MixSounds } from './mix-facts'

/** The mix is heard as it is proposed without the ride, and once more with it: compressors give back a part of what a ride takes. Silent lines are left out. */
export async function readCorrections(
  song: Song,
  leadId: LayerId,
  facts: MixFacts,
  leadOverBeatLu: number,
  sounds: Pick<MixSounds, 'store' | 'prints'>,
  onProgress: (fraction: number) => void = () => {},
): Promise<Corrections> {
  let count = 0
  const taken = (proposals: readonly Proposed[]) => proposals.reduce((now, one) => takeProposal(now, one, () => `proposed-${count++}`), song)
  const bare = taken(proposeFirstMix(song, facts, { leadOverBeatLu }).filter(({ kind }) => kind !== 'ride'))
  const still = { ...bare, layers: bare.layers.map(layer => (layer.id === leadId ? { ...layer, ride: [] } : layer)) }
  const unridden = await linesInMix(still, leadId, facts, leadOverBeatLu, sounds, fraction => onProgress(fraction / 2))
  const mixed = taken(proposeFirstMix(song, facts, { leadOverBeatLu, corrections: { unridden, ridden: new Map() } }))
  const ridden = await linesInMix(mixed, leadId, facts, leadOverBeatLu, sounds, fraction => onProgress(0.5 + fraction / 2))
  return { unridden, ridden }
}
