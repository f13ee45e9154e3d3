/** A proposed comp: a faint thread through the takes it would use. */
import type { Proposal } from '../../../core/comp/propose-comp'
import type { TakeId } from '../../../core/song/schema'
import type { PlacedLine } from '../../../core/song/select'
import { TimeSvg, type RowWindow } from './time-svg'

export function FaintThread({ proposals, lines, yOf, rows }: { proposals: readonly Proposal[]; lines: readonly PlacedLine[]; yOf: (takeId: TakeId) => number | null; rows: RowWindow }) {
  const path = proposals
    .map(proposal => {
      const line = lines.find(entry => entry.line.id === proposal.lineId)
      const y = yOf(proposal.takeId)
      return line && y !== null ? `M ${line.startFrame} ${y} L ${line.endFrame} ${y}` : ''
    })
    .join(' ')
  if (path.trim() === '') return null
  return (
    <TimeSvg rows={rows}>
      <path d={path} fill="none" stroke="var(--chakra-colors-brand)" strokeWidth={7} strokeLinecap="round" opacity={0.35} vectorEffect="non-scaling-stroke" />
    </TimeSvg>
  )
}
