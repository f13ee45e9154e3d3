/** A line of a layer sounds earlier or later as a whole. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { nudgeStretch } from '../../../core/comp/seams'
import type { LayerId, LineId } from '../../../core/song/schema'
import { requirePlacedLine } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { edit } from '../../song/song-store'

export function nudgeLine(layerId: LayerId, lineId: LineId, milliseconds: number, label: string): void {
  const later = Math.round((milliseconds * SAMPLE_RATE_HZ) / 1_000)
  edit(label, song => {
    const { startFrame, endFrame } = requirePlacedLine(song, lineId)
    return nudgeStretch(song, { layerId, startFrame, endFrame, nudgeFrames: before => before + later, makeId })
  })
}
