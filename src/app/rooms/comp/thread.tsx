/** The thread: the comp as a stitched line that runs along the picked ribbon and drops to the next at each seam. */
import { memo } from 'react'
import type { Layer, TakeId } from '../../../core/song/schema'
import { currentComp, overlapFrames, type FrameRange } from '../../../core/song/select'
import { ROLE_LOOKS } from '../../theme/roles'

const WIDTH = 1_000

/** @param yOf Middle of a take's row; null if it is not on the bench. */
export const Thread = memo(function Thread({ layer, yOf, view, height }: { layer: Layer; yOf: (takeId: TakeId) => number | null; view: FrameRange; height: number }) {
  const x = (frame: number) => Math.max(0, Math.min(WIDTH, ((frame - view.startFrame) / (view.endFrame - view.startFrame)) * WIDTH))
  const shown = currentComp(layer).picks.flatMap(pick => {
    const y = overlapFrames(pick, view) > 0 ? yOf(pick.takeId) : null
    return y === null ? [] : [{ pick, y }]
  })
  const path = shown
    .map(({ pick, y }, i) => {
      const before = shown[i - 1]
      const start = x(pick.startFrame)
      const lead = before && before.pick.endFrame === pick.startFrame ? `C ${start} ${before.y}, ${start} ${y}, ${Math.min(WIDTH, start + 8)} ${y}` : `M ${start} ${y}`
      return `${lead} L ${x(pick.endFrame) - (shown[i + 1]?.pick.startFrame === pick.endFrame ? 8 : 0)} ${y}`
    })
    .join(' ')
  const { dashes } = ROLE_LOOKS[layer.tint]
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} width="100%" height={height} preserveAspectRatio="none" aria-hidden style={{ position: 'absolute', inset: 0, overflow: 'visible', pointerEvents: 'none' }}>
      <path d={path} fill="none" stroke="var(--chakra-colors-ink)" strokeWidth={2.5} strokeDasharray={(dashes.length > 0 ? dashes : [10, 0]).join(' ')} vectorEffect="non-scaling-stroke" />
    </svg>
  )
})
