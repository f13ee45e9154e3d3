/** Asks where two tempos were heard in a beat and neither is sure. */
import { Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { TempoReading } from '../../../core/beat/tempo'
import { gridOfReading } from '../../../core/song/beat-facts'
import { Card, Pill } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { keepGrid } from './keep-grid'
import { tempoOfReading } from './tempo-card'

/** An answer that is less sure than this is asked about. */
const SURE = 0.75

/** Nothing once a tempo was typed or chosen. */
export const TempoDoubt = memo(function TempoDoubt({ heard }: { heard: readonly TempoReading[] }) {
  const { grid, gridSource } = useSong(song => song.beat)
  const [best, other] = heard
  if (!best || !other || best.confidence >= SURE || gridSource !== 'found' || Math.abs(best.tempoBpm / grid.tempoBpm - 1) > 0.001) return null
  const both = [best, other]
  return (
    <Card mb={3} py={2} role="status">
      <Flex align="center" gap={2}>
        <Text fontWeight={600}>Is it {both.map(tempoOfReading).join(' or ')} bpm?</Text>
        <Text color="ink.soft" flex="1">
          Both are heard in it. Play it with the click and keep the one that you would count.
        </Text>
        {both.map(reading => (
          <Pill
            key={reading.tempoBpm}
            aria-label={`${tempoOfReading(reading)} bpm`}
            onClick={() => keepGrid(`keep ${tempoOfReading(reading)} bpm`, () => gridOfReading(reading))}
          >
            {tempoOfReading(reading)}
          </Pill>
        ))}
      </Flex>
    </Card>
  )
})
