/** Silence where the beat does not cover the room would be heard as a hole: a dip is proposed, with the reason. */
import { Flex, Text } from '@chakra-ui/react'
import { count } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { layMends } from './tidying'
import { useCover } from './use-cover'
import type { Line } from './use-line'

export function BareRests({ line }: { line: Line }) {
  const bare = useCover(line)
  if (bare.length === 0) return null
  const least = Math.max(...bare.map(({ dipDecibels }) => dipDecibels))
  const most = Math.min(...bare.map(({ dipDecibels }) => dipDecibels))
  const by = (least === most ? `${-most}` : `${-least} to ${-most}`) + ' dB'
  return (
    <Flex mt={2} gap={2} align="center">
      <Text flex="1" minW={0} role="status">
        In {count(bare.length, 'rest')} the beat does not cover the room: silence would be heard as a hole.
      </Text>
      <Pill
        size="xs"
        px={3}
        flexShrink={0}
        onClick={() =>
          layMends(
            bare.map(({ rest, dipDecibels }) => ({ mend: rest, decibels: dipDecibels })),
            `dip ${count(bare.length, 'rest')} by ${by}`,
          )
        }
      >
        Dip by {by}
      </Pill>
    </Flex>
  )
}
