/** Where the lead's syllables are in a line of another layer, from the sound of both. */
import type { Song } from '../song/schema'
import { requireTake } from '../song/select'
import type { LedPath } from '../song/together-schema'
import { findAnchors } from './follow'
import { soundOfLayer, type ReadSound } from './layer-sound'
import { placesOf, type LedLine } from './led-paths'

export async function findPath(song: Song, line: LedLine, read: ReadSound): Promise<LedPath['places']> {
  const { startFrame, endFrame } = line.range
  const { assetId } = requireTake(song, line.takeId)
  const own = (await read(assetId, startFrame - line.originFrame, endFrame - line.originFrame))[0]
  return placesOf(findAnchors(await soundOfLayer(song, line.leadId, line.range, read), own), line)
}
