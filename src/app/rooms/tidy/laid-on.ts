/** All that is laid on a line, in its order, to be listed and stepped through. */
import type { GainInSong } from '../../../core/edits/stretch-level'
import type { MoveInSong } from '../../../core/edits/stretch-time'
import type { MendInSong } from '../../../core/prints/laid-in'
import { keyOfMend } from './tidy-store'
import type { Line } from './use-line'

export type Laid = { key: string; startFrame: number } & (
  { kind: 'mend'; mend: MendInSong } | { kind: 'gain'; gain: GainInSong } | { kind: 'move'; move: MoveInSong }
)

export function laidOn({ mends, gains, moves }: Pick<Line, 'mends' | 'gains' | 'moves'>): Laid[] {
  const all: Laid[] = [
    ...mends.map(mend => ({ kind: 'mend' as const, key: keyOfMend(mend), startFrame: mend.startFrame, mend })),
    ...gains.map(gain => ({ kind: 'gain' as const, key: `gain ${gain.parts[0]!.edit.id}`, startFrame: gain.startFrame, gain })),
    ...moves.map(move => ({ kind: 'move' as const, key: `move ${move.editIds[0]}`, startFrame: move.startFrame, move })),
  ]
  return all.sort((a, b) => a.startFrame - b.startFrame)
}
