/** A proposed comp: a faint thread through the takes it would use. */
import { memo, useCallback } from 'react'
import type { Proposal } from '../../../core/comp/propose-comp'
import type { Song, TakeId } from '../../../core/song/schema'
import { placedLines } from '../../../core/song/select'
import { TimeCanvas, type RowWindow, type TimeDrawing } from './time-canvas'

interface FaintThreadProps {
  song: Song
  proposals: readonly Proposal[]
  yOf: (takeId: TakeId) => number | null
  rows: RowWindow
}

export const FaintThread = memo(function FaintThread({ song, proposals, yOf, rows }: FaintThreadProps) {
  const draw = useCallback(
    ({ context, xOf, colour }: TimeDrawing) => {
      const lines = placedLines(song)
      context.strokeStyle = colour('brand')
      context.lineWidth = 7
      context.lineCap = 'round'
      context.globalAlpha = 0.35
      context.beginPath()
      for (const proposal of proposals) {
        const line = lines.find(entry => entry.line.id === proposal.lineId)
        const y = yOf(proposal.takeId)
        if (!line || y === null) continue
        context.moveTo(xOf(line.startFrame), y)
        context.lineTo(xOf(line.endFrame), y)
      }
      context.stroke()
      context.globalAlpha = 1
    },
    [song, proposals, yOf],
  )
  return proposals.length > 0 ? <TimeCanvas rows={rows} draw={draw} /> : null
})
