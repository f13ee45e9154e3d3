/** The thread: the comp as a stitched line that runs along the picked ribbon and drops to the next at each seam. */
import { memo, useCallback } from 'react'
import type { Layer, TakeId } from '../../../core/song/schema'
import { currentComp, type FrameRange } from '../../../core/song/select'
import { formatMilliseconds } from '../../shared/format'
import { ROLE_LOOKS } from '../../theme/roles'
import { TimeCanvas, type RowWindow, type TimeDrawing } from './time-canvas'

/** The drop at a seam takes this long of the song; less where a pick is short. */
const DROP_FRAMES = 2_400
/** Drawn beyond the edges of what is in view. */
const BEYOND_PIXELS = 40

/** @param yOf Middle of a take's row; null if it is not on the bench. */
export const Thread = memo(function Thread({ layer, yOf, rows }: { layer: Layer; yOf: (takeId: TakeId) => number | null; rows: RowWindow }) {
  const { picks } = currentComp(layer)
  const { dashes } = ROLE_LOOKS[layer.tint]
  const draw = useCallback(
    ({ context, width, xOf, colour }: TimeDrawing) => {
      context.strokeStyle = colour('ink')
      const shown = picks.flatMap(pick => {
        const y = yOf(pick.takeId)
        return y === null ? [] : [{ pick, y }]
      })
      shown.forEach(({ pick, y }, i) => {
        const [from, to] = [xOf(pick.startFrame), xOf(pick.endFrame)]
        if (to < -BEYOND_PIXELS || from > width + BEYOND_PIXELS) return
        const before = shown[i - 1]
        const dropOf = ({ startFrame, endFrame }: FrameRange) => (xOf(DROP_FRAMES) - xOf(0)) * Math.min(1, (endFrame - startFrame) / 3 / DROP_FRAMES)
        const drop = dropOf(pick)
        const start = Math.max(from, -BEYOND_PIXELS)
        const end = Math.min(to - (shown[i + 1]?.pick.startFrame === pick.endFrame ? drop : 0), width + BEYOND_PIXELS)
        context.lineWidth = 2.5
        context.setLineDash(dashes)
        context.beginPath()
        // The stitches keep their place as the pick's beginning leaves the view.
        context.lineDashOffset = start - from
        if (before?.pick.endFrame === pick.startFrame && start === from) {
          // From where the one before left off.
          context.moveTo(from - dropOf(before.pick), before.y)
          context.bezierCurveTo(from, before.y, from, y, from + drop, y)
        } else context.moveTo(start, y)
        context.lineTo(end, y)
        context.stroke()
        if (pick.nudgeFrames !== 0)
          tag(
            { context, colour },
            `${pick.nudgeFrames > 0 ? '+' : '−'}${formatMilliseconds(Math.abs(pick.nudgeFrames))}`,
            Math.max(from, 0) + TAG_INSET_PIXELS,
            y,
          )
      })
    },
    [picks, yOf, dashes],
  )
  return <TimeCanvas rows={rows} draw={draw} />
})

const TAG_INSET_PIXELS = 22
const TAG_HEIGHT_PIXELS = 18

/** A slip of cloth on the thread that says by how much a pick is nudged. */
function tag({ context, colour }: Pick<TimeDrawing, 'context' | 'colour'>, text: string, x: number, y: number): void {
  context.font = '600 11px Figtree Variable, sans-serif'
  const width = context.measureText(text).width + 12
  context.setLineDash([])
  context.lineWidth = 1
  context.fillStyle = colour('card')
  context.beginPath()
  context.roundRect(x, y - TAG_HEIGHT_PIXELS / 2, width, TAG_HEIGHT_PIXELS, 6)
  context.fill()
  context.stroke()
  context.fillStyle = colour('ink')
  context.textBaseline = 'middle'
  context.fillText(text, x + 6, y + 0.5)
}
