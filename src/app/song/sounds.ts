/** Stored levels of sounds, read once and remembered. */
import { useQuery } from '@tanstack/react-query'
import type { PlacedPeaks } from '../../core/comp/quiet-spot'
import type { AssetId, Take } from '../../core/song/schema'
import { readPeaks } from '../../storage/sounds'
import { queryClient } from '../query-client'

export const peaksQuery = (assetId: AssetId) => ({ queryKey: ['peaks', assetId], queryFn: () => readPeaks(assetId) })

/** An asset's stored levels; null until they are read, or if there are none. */
export function usePeaks(assetId: AssetId) {
  return useQuery(peaksQuery(assetId)).data ?? null
}

/** An asset's stored levels, read and remembered. */
export function readPeaksOf(assetId: AssetId) {
  return queryClient.fetchQuery(peaksQuery(assetId))
}

/** A take's levels in their place. */
export async function placedPeaksOf(take: Take): Promise<PlacedPeaks | null> {
  const peaks = await readPeaksOf(take.assetId)
  return peaks ? { peaks, originFrame: take.originFrame } : null
}

/** The levels of several takes, looked up by take afterwards. */
export async function peaksLookup(takes: Take[]): Promise<(take: Take) => PlacedPeaks | null> {
  const found = new Map(await Promise.all(takes.map(async take => [take.id, await placedPeaksOf(take)] as const)))
  return take => found.get(take.id) ?? null
}
