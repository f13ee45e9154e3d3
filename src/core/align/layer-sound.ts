/** What a layer plays over a stretch, as it was sung: without gains, seams and mends. */
import type { Mono, Planar } from '../audio/frames'
import type { AssetId, LayerId, Song } from '../song/schema'
import { currentComp, requireLayer, requireTake, type FrameRange } from '../song/select'

/** Frames of an asset; silence where it does not reach. */
export type ReadSound = (assetId: AssetId, startFrame: number, endFrame: number) => Promise<Planar>

/** @param range In frames of the song. @returns as many frames; silence where nothing is picked. */
export async function soundOfLayer(song: Song, layerId: LayerId, range: FrameRange, read: ReadSound): Promise<Mono> {
  const sound: Mono = new Float32Array(range.endFrame - range.startFrame)
  for (const pick of currentComp(requireLayer(song, layerId)).picks) {
    const [from, to] = [Math.max(range.startFrame, pick.startFrame), Math.min(range.endFrame, pick.endFrame)]
    if (to <= from) continue
    const take = requireTake(song, pick.takeId)
    const origin = take.originFrame + pick.nudgeFrames
    sound.set((await read(take.assetId, Math.round(from - origin), Math.round(to - origin)))[0].subarray(0, to - from), from - range.startFrame)
  }
  return sound
}
