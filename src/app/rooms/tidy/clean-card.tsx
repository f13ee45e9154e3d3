/** Clean: what the layer asks for, and every mend of the line as a plain sentence with a number. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { USUAL_TIDY } from '../../../core/edits/tidy'
import { leadOf } from '../../../core/align/led-paths'
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

type Amount = { [K in keyof TidyPolicy]: TidyPolicy[K] extends number ? K : never }[keyof TidyPolicy]
type Choice = Exclude<keyof TidyPolicy, Amount>

const AMOUNTS: [Amount, string][] = [
  ['breathDecibels', 'Breaths'],
  ['essDecibels', 'Esses'],
  ['popDecibels', 'Pops'],
  ['restDecibels', 'Rests'],
  ['finalDecibels', 'Last consonants'],
]

/** What is done or not, with what undoing says of it. */
const CHOICES: { name: Choice; label: string; on: string; off: string }[] = [
  { name: 'mendsClicks', label: 'Clicks', on: 'mend clicks', off: 'leave clicks' },
  { name: 'fillsNoises', label: 'Noises', on: 'room tone for noises', off: 'leave noises' },
  { name: 'roundsClips', label: 'Clipped tops', on: 'round clipped tops', off: 'leave clipped tops' },
  { name: 'endsWithLead', label: 'Ends with the lead', on: 'end with the lead', off: 'ends as sung' },
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
          {CHOICES.filter(choice => isOffered(choice.name, line)).map(({ name, label, on, off: without }) => (
            <Pill
              key={name}
              size="xs"
              px={3}
              chosen={tidy[name]}
              onClick={() => layTidy([layer.id], tidy[name] ? without : on, { ...tidy, [name]: !tidy[name] })}
            >
              {label}
            </Pill>
          ))}
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

/** Nothing is offered that could do nothing. */
function isOffered(choice: Choice, { song, layer, isClipped }: Line): boolean {
  if (choice === 'roundsClips') return isClipped || layer.tidy!.roundsClips
  return choice !== 'endsWithLead' || leadOf(song, layer) !== null
}

function EvenOut() {
  return (
    <Pill size="xs" px={3} onClick={() => useTidy.setState({ evenDecibels: EVEN_DECIBELS })}>
      Even out phrases <KeyCap>E</KeyCap>
    </Pill>
  )
}
