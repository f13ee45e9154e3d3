/** Clean: what the layer asks for, and every mend of the line as a plain sentence with a number. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { USUAL_TIDY } from '../../../core/edits/tidy'
import type { TidyPolicy } from '../../../core/song/tidy-schema'
import { TIDY_RANGE_DECIBELS } from '../../../core/song/tidy-schema'
import { count } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, KeyCap, Pill } from '../../shared/parts'
import { AllAlike } from './all-alike'
import { BareRests } from './bare-rests'
import { MendList } from './mend-list'
import { layTidy } from './tidying'
import { EVEN_DECIBELS, useTidy } from './tidy-store'
import type { Line } from './use-line'

const AMOUNTS: [keyof Omit<TidyPolicy, 'mendsClicks'>, string][] = [
  ['breathDecibels', 'Breaths'],
  ['essDecibels', 'Esses'],
  ['popDecibels', 'Pops'],
  ['restDecibels', 'Rests'],
]

export function CleanCard({ line }: { line: Line }) {
  const { layer, mends, gains, moves } = line
  const { tidy } = layer
  const off = mends.filter(({ isOff }) => isOff).length
  const on = mends.length - off + gains.length + moves.length
  return (
    <Card p={3} minW={0}>
      <Flex align="baseline" gap={2} wrap="wrap">
        <CardTitle>Clean</CardTitle>
        <Text color="ink.soft" role="status">
          {tidy || on > 0 ? `${count(on, 'mend')} here${off > 0 ? `, ${off} taken off` : ''}` : 'as sung'}
        </Text>
        <Box flex="1" />
        <AllAlike line={line} what="tidy" lay={layTidy} />
        <Pill
          size="xs"
          px={3}
          chosen={tidy !== null}
          onClick={() => layTidy([layer.id], tidy ? 'nothing tidied' : `tidy ${layer.name}`, tidy ? null : USUAL_TIDY[layer.role])}
        >
          {tidy ? 'Tidied' : 'Tidy this layer'}
        </Pill>
      </Flex>
      {tidy ? (
        <Flex gap={3} rowGap={1} mt={2} wrap="wrap" align="center">
          {AMOUNTS.map(([name, label]) => (
            <Flex key={name} align="center" gap="6px">
              <Text>{label}</Text>
              <NumberField
                label={`${label}, change`}
                value={tidy[name]}
                {...TIDY_RANGE_DECIBELS}
                unit="dB"
                width="48px"
                onKeep={decibels => layTidy([layer.id], `${label.toLowerCase()} by ${decibels} dB`, { ...tidy, [name]: decibels })}
              />
            </Flex>
          ))}
          <Pill
            size="xs"
            px={3}
            chosen={tidy.mendsClicks}
            onClick={() => layTidy([layer.id], tidy.mendsClicks ? 'leave clicks' : 'mend clicks', { ...tidy, mendsClicks: !tidy.mendsClicks })}
          >
            Clicks
          </Pill>
          <EvenOut />
        </Flex>
      ) : (
        <>
          <Text mt={2} mb={2} color="ink.soft">
            Breaths lower, pops and clicks mended, silence between the phrases: each is listed here, and any can be taken off.
          </Text>
          <EvenOut />
        </>
      )}
      <BareRests line={line} />
      <MendList line={line} />
    </Card>
  )
}

function EvenOut() {
  return (
    <Pill size="xs" px={3} onClick={() => useTidy.setState({ evenDecibels: EVEN_DECIBELS })}>
      Even out phrases <KeyCap>E</KeyCap>
    </Pill>
  )
}
