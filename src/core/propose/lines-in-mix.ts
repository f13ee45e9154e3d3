/** How loud a voice comes out of a mix, line by line, over what is wanted there. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { integratedLufs } from '../loudness/loudness'
import { planMix } from '../mix/plan'
import { joinPlanes, renderOffline } from '../mix/render-offline'
import type { Planar } from '../audio/frames'
import type { LayerId, LineId, Song } from '../song/schema'
import { placedLines } from '../song/select'
import { aimedLoudness } from './lines-aimed'
import type { MixFacts, MixSounds } from './mix-facts'

/** Compressors know how loud a voice is once they heard so much of it. */
const BEFORE_FRAMES = SAMPLE_RATE_HZ

/** @returns by how many LU each line of the layer is louder than `aimedLoudness`; silent lines are left out. */
export async function linesInMix(
  song: Song,
  layerId: LayerId,
  { beat }: Pick<MixFacts, 'beat'>,
  overBeatLu: number,
  { store, prints }: Pick<MixSounds, 'store' | 'prints'>,
  onProgress: (fraction: number) => void = () => {},
): Promise<Map<LineId, number>> {
  const plan = { ...planMix({ ...song, beat: { ...song.beat, muted: true, soloed: false } }, { kind: 'song' }, prints), stem: [layerId] }
  const wanted = aimedLoudness(beat, overBeatLu)
  const lines = placedLines(song).filter(({ line }) => wanted.has(line.id))
  const found = new Map<LineId, number>()
  for (const [i, { line, startFrame, endFrame }] of lines.entries()) {
    const from = Math.max(0, Math.round(startFrame) - BEFORE_FRAMES)
    const pieces: Planar[] = []
    await renderOffline({ plan, store, range: { startFrame: from, endFrame: Math.round(endFrame) }, sink: planes => void pieces.push(planes) })
    const lufs = integratedLufs(joinPlanes(pieces).map(plane => plane.subarray(Math.round(startFrame) - from)))
    const off = lufs - wanted.get(line.id)!
    if (Number.isFinite(off)) found.set(line.id, off)
    onProgress((i + 1) / lines.length)
  }
  return found
}
