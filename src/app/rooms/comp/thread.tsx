/** The thread: the comp as a stitched line that runs along the picked ribbon and drops to the next at each seam. */
import { memo } from 'react'
import type { Layer, TakeId } from '../../../core/song/schema'
import { currentComp } from '../../../core/song/select'
import { ROLE_LOOKS } from '../../theme/roles'
import { TimeSvg, type RowWindow } from './time-svg'

/** The drop at a seam takes this long of the song; less where a pick is short. */
const DROP_FRAMES = 2_400

/** @param yOf Middle of a take's row; null if it is not on the bench. */
export const Thread = memo(function Thread({ layer, yOf, rows }: { layer: Layer; yOf: (takeId: TakeId) => number | null; rows: RowWindow }) {
  const shown = currentComp(layer).picks.flatMap(pick => {
    const y = yOf(pick.takeId)
    return y === null ? [] : [{ pick, y }]
  })
  const path = shown
    .map(({ pick, y }, i) => {
      const before = shown[i - 1]
      const joined = before?.pick.endFrame === pick.startFrame
      const drop = Math.min(DROP_FRAMES, (pick.endFrame - pick.startFrame) / 3)
      const lead = before && joined ? `C ${pick.startFrame} ${before.y}, ${pick.startFrame} ${y}, ${pick.startFrame + drop} ${y}` : `M ${pick.startFrame} ${y}`
      return `${lead} L ${pick.endFrame - (shown[i + 1]?.pick.startFrame === pick.endFrame ? drop : 0)} ${y}`
    })
    .join(' ')
  const { dashes } = ROLE_LOOKS[layer.tint]
  return (
    <TimeSvg rows={rows}>
      <path d={path} fill="none" stroke="var(--chakra-colors-ink)" strokeWidth={2.5} strokeDasharray={(dashes.length > 0 ? dashes : [10, 0]).join(' ')} vectorEffect="non-scaling-stroke" />
    </TimeSvg>
  )
})
