/** How far the line's notes lie off their rungs, as sung and as tuned: a stitch a note, on either side of the rung. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { median } from '../../../core/audio/statistics'
import type { NoteInSong } from '../../../core/prints/laid-in'
import { useRoleColour } from '../../theme/roles'
import type { Line } from './use-line'

const WIDTH = 190
const ROW = 13
/** The strip's ends; what is further off stands there. */
const MOST_CENTS = 60

interface Offs {
  sung: number
  tuned: number
}

function offsOf({ note, left, rungCents, drawnToCents }: NoteInSong, amount: number): Offs | null {
  const rung = note.targetCents ?? rungCents
  if (rung === null) return null
  const sung = note.cents - rung
  return { sung, tuned: left === null ? (1 - amount) * sung : drawnToCents - rung }
}

export function OffsStrip({ line: { notes, layer }, amount }: { line: Line; amount: number }) {
  const colour = useRoleColour(layer.role)
  const offs = notes.flatMap(note => offsOf(note, amount) ?? [])
  if (offs.length === 0) return null
  const mostly = (read: (off: Offs) => number) => Math.round(median(offs.map(off => Math.abs(read(off)))))
  const [sung, tuned] = [mostly(off => off.sung), mostly(off => off.tuned)]
  const x = (cents: number) => WIDTH / 2 + (Math.max(-MOST_CENTS, Math.min(MOST_CENTS, cents)) / MOST_CENTS) * (WIDTH / 2 - 3)
  return (
    <Flex align="center" gap={3} mt={2}>
      <Box flexShrink={0} bg="sunken" borderRadius="8px" px={1}>
        <svg width={WIDTH} height={2 * ROW + 6} role="img" aria-label={`Off their rungs: ${sung} cents mostly as sung, ${tuned} as tuned`}>
          <line x1={WIDTH / 2} x2={WIDTH / 2} y1={2} y2={2 * ROW + 4} stroke="var(--chakra-colors-ink-soft)" strokeOpacity={0.7} />
          {offs.map((off, i) => (
            <g key={i} strokeLinecap="round">
              <line x1={x(off.sung)} x2={x(off.sung)} y1={4} y2={1 + ROW} stroke="var(--chakra-colors-ink-soft)" strokeWidth={1.6} strokeOpacity={0.8} />
              <line x1={x(off.tuned)} x2={x(off.tuned)} y1={5 + ROW} y2={2 + 2 * ROW} stroke={colour} strokeWidth={2.4} />
            </g>
          ))}
        </svg>
      </Box>
      <Text color="ink.soft" fontSize="12px" lineHeight="16px">
        {sung} cents off as sung
        <br />
        {tuned} as tuned
      </Text>
    </Flex>
  )
}
