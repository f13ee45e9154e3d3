/** Stored sounds for tests of jobs, and a browser's locks, which Node has not. */
import type { Planar } from '../core/audio/frames'
import { cutIntoChunks } from '../core/mix/chunk-window'
import type { AssetId } from '../core/song/schema'
import { AssetWriter } from '../storage/sounds'

/** One after the other, as locks of one name are granted. */
const turns = new Map<string, Promise<unknown>>()
const locks = {
  request: (name: string, act: () => Promise<unknown>) => {
    const turn = (turns.get(name) ?? Promise.resolve()).then(act, act)
    turns.set(name, turn)
    return turn
  },
}
Object.defineProperty(globalThis, 'navigator', { value: { locks }, configurable: true })

export async function storeSound(assetId: string, planes: Planar): Promise<AssetId> {
  const writer = await AssetWriter.create(assetId as AssetId, planes.length)
  for (const chunk of cutIntoChunks(planes)) await writer.push(chunk)
  await writer.finish()
  return assetId as AssetId
}
