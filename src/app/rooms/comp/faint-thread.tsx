/** A proposed comp: a faint thread through the takes it would use. */
import type { Proposal } from '../../../core/comp/propose-comp'
import type { TakeId } from '../../../core/song/schema'
import type { FrameRange, PlacedLine } from '../../../core/song/select'

const WIDTH = 1_000

export function FaintThread({ proposals, lines, yOf, view, height }: { proposals: readonly Proposal[]; lines: readonly PlacedLine[]; yOf: (takeId: TakeId) => number | null; view: FrameRange; height: number }) {
  const x = (frame: number) => Math.max(0, Math.min(WIDTH, ((frame - view.startFrame) / (view.endFrame - view.startFrame)) * WIDTH))
  const path = proposals
    .map(proposal => {
      const line = lines.find(entry => entry.line.id === proposal.lineId)
      const y = yOf(proposal.takeId)
      return line && y !== null && line.endFrame > view.startFrame && line.startFrame < view.endFrame ? `M ${x(line.startFrame)} ${y} L ${x(line.endFrame)} ${y}` : ''
    })
    .join(' ')
  if (path.trim() === '') return null
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} width="100%" height={height} preserveAspectRatio="none" aria-hidden style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }}>
      <path d={path} fill="none" stroke="var(--chakra-colors-brand)" strokeWidth={7} strokeLinecap="round" opacity={0.35} vectorEffect="non-scaling-stroke" />
    </svg>
  )
}
