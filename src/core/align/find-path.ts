/** Where the lead's syllables are in a line of another layer, from the sound of both. */
import type { Mono, Planar } from '../audio/frames'
import type { AssetId, Song } from '../song/schema'
import { currentComp, requireLayer, requireTake } from '../song/select'
import type { LedPath } from '../song/together-schema'
import { findAnchors } from './follow'
import { placesOf, type LedLine } from './led-paths'

/** Frames of an asset; silence where it does not reach. */
export type ReadSound = (assetId: AssetId, startFrame: number, endFrame: number) => Promise<Planar>

export async function findPath(song: Song, line: LedLine, read: ReadSound): Promise<LedPath['places']> {
  const { startFrame, endFrame } = line.range
  const { assetId } = requireTake(song, line.takeId)
  const own = (await read(assetId, startFrame - line.originFrame, endFrame - line.originFrame))[0]
  return placesOf(findAnchors(await leadSound(song, line, read), own), line)
}

/** What the lead plays there, as it was sung: neither its gains nor its seams say where a syllable is. */
async function leadSound(song: Song, { leadId, range }: LedLine, read: ReadSound): Promise<Mono> {
  const sound: Mono = new Float32Array(range.endFrame - range.startFrame)
  for (const pick of currentComp(requireLayer(song, leadId)).picks) {
    const [from, to] = [Math.max(range.startFrame, pick.startFrame), Math.min(range.endFrame, pick.endFrame)]
    if (to <= from) continue
    const take = requireTake(song, pick.takeId)
    const origin = take.originFrame + pick.nudgeFrames
    sound.set((await read(take.assetId, Math.round(from - origin), Math.round(to - origin)))[0].subarray(0, to - from), from - range.startFrame)
  }
  return sound
}
