/** Layers that play one and the same sound in a line: what is laid twice only gets louder, or sounds hollow. */
import type { LayerId, LineId, Song } from '../song/schema'
import { currentComp, overlapFrames, requirePlacedLine } from '../song/select'
import { findCopy, phasesOf, type Copy } from './copies'
import { soundOfLayer, type ReadSound } from './layer-sound'

export interface CopyInLine extends Copy {
  lineId: LineId
  /** In the order of the layers. */
  layerIds: [LayerId, LayerId]
}

/** @param onProgress Of all lines. @returns in the order of the lines. */
export async function copiesInLines(
  song: Song,
  lineIds: readonly LineId[],
  read: ReadSound,
  onProgress: (fraction: number) => void = () => {},
): Promise<CopyInLine[]> {
  const found: CopyInLine[] = []
  for (const [at, lineId] of lineIds.entries()) {
    const line = requirePlacedLine(song, lineId)
    const range = { startFrame: Math.max(0, line.startFrame), endFrame: line.endFrame }
    const playing = song.layers.filter(layer => !layer.muted && currentComp(layer).picks.some(pick => overlapFrames(pick, range) > 0))
    const phases = (await Promise.all(playing.map(layer => soundOfLayer(song, layer.id, range, read)))).map(phasesOf)
    playing.forEach((layer, i) =>
      playing.slice(i + 1).forEach((other, k) => {
        const copy = findCopy(phases[i], phases[i + 1 + k])
        if (copy) found.push({ ...copy, lineId, layerIds: [layer.id, other.id] })
      }),
    )
    onProgress((at + 1) / lineIds.length)
  }
  return found
}

/** Closer than this two equal sounds are heard as one. */
const AS_ONE_SECONDS = 0.001

/** What is heard of it. */
export function effectOf({ lagSeconds, isInverted }: Copy): 'louder' | 'gone' | 'hollow' {
  if (Math.abs(lagSeconds) >= AS_ONE_SECONDS) return 'hollow'
  return isInverted ? 'gone' : 'louder'
}
