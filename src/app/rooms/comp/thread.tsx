/** The thread: the comp as a stitched line that runs along the picked ribbon and drops to the next at each seam. */
import type { Layer, Pick, TakeId } from '../../../core/song/schema'
import { overlapFrames, type FrameRange } from '../../../core/song/select'
import { ROLE_LOOKS } from '../../theme/roles'

const WIDTH = 1_000

export function Thread({ layer, picks, takeIds, view, rowHeight }: { layer: Layer; picks: readonly Pick[]; takeIds: TakeId[]; view: FrameRange; rowHeight: number }) {
  const x = (frame: number) => Math.max(0, Math.min(WIDTH, ((frame - view.startFrame) / (view.endFrame - view.startFrame)) * WIDTH))
  const y = (takeId: TakeId) => (takeIds.indexOf(takeId) + 0.5) * rowHeight
  const shown = picks.filter(pick => overlapFrames(pick, view) > 0 && takeIds.includes(pick.takeId))
  const path = shown
    .map((pick, i) => {
      const before = shown[i - 1]
      const joined = before !== undefined && before.endFrame === pick.startFrame
      const start = x(pick.startFrame)
      const lead = joined ? `C ${start} ${y(before.takeId)}, ${start} ${y(pick.takeId)}, ${Math.min(WIDTH, start + 8)} ${y(pick.takeId)}` : `M ${start} ${y(pick.takeId)}`
      return `${lead} L ${x(pick.endFrame) - (shown[i + 1]?.startFrame === pick.endFrame ? 8 : 0)} ${y(pick.takeId)}`
    })
    .join(' ')
  const seams = [...new Set(shown.flatMap(pick => [pick.startFrame, pick.endFrame]))].filter(frame => frame > view.startFrame && frame < view.endFrame)
  const height = takeIds.length * rowHeight
  const seamRow = (frame: number) => y((shown.find(pick => pick.startFrame === frame) ?? shown.find(pick => pick.endFrame === frame))!.takeId)
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} width="100%" height={height} preserveAspectRatio="none" aria-hidden style={{ position: 'absolute', inset: 0, overflow: 'visible' }}>
      <path d={path} fill="none" stroke="var(--chakra-colors-ink)" strokeWidth={2.5} strokeDasharray={(ROLE_LOOKS[layer.tint].dashes.length > 0 ? ROLE_LOOKS[layer.tint].dashes : [10, 0]).join(' ')} vectorEffect="non-scaling-stroke" />
      {seams.map(frame => (
        <line key={frame} x1={x(frame)} x2={x(frame)} y1={seamRow(frame) - 9} y2={seamRow(frame) + 9} stroke="var(--chakra-colors-brand)" strokeWidth={2.5} vectorEffect="non-scaling-stroke" />
      ))}
    </svg>
  )
}
