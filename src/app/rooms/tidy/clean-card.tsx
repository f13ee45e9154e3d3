/** Clean: what the layer asks for, and every mend of the line as a plain sentence with a number. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useEffect, useRef } from 'react'
import { USUAL_TIDY } from '../../../core/edits/tidy'
import type { MendInSong } from '../../../core/prints/laid-in'
import type { TidyPolicy } from '../../../core/song/tidy-schema'
import { TIDY_RANGE_DECIBELS } from '../../../core/song/tidy-schema'
import { count } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill, SmallButton } from '../../shared/parts'
import { AllAlike } from './all-alike'
import { MEND_NAMES, whereOf, whyOf } from './mend-words'
import { layMend, layTidy } from './tidying'
import { keyOfMend, useTidy } from './tidy-store'
import type { Line } from './use-line'

const AMOUNTS: [keyof Omit<TidyPolicy, 'mendsClicks'>, string][] = [
  ['breathDecibels', 'Breaths'],
  ['essDecibels', 'Esses'],
  ['popDecibels', 'Pops'],
  ['restDecibels', 'Rests'],
]

export function CleanCard({ line }: { line: Line }) {
  const { layer, mends } = line
  const { tidy } = layer
  const on = mends.filter(({ isOff }) => !isOff).length
  return (
    <Card p={3} minW={0}>
      <Flex align="baseline" gap={2} wrap="wrap">
        <CardTitle>Clean</CardTitle>
        <Text color="ink.soft" role="status">
          {tidy ? `${count(on, 'mend')} here${on < mends.length ? `, ${mends.length - on} taken off` : ''}` : 'as sung'}
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
        </Flex>
      ) : (
        <Text mt={2} color="ink.soft">
          Breaths lower, pops and clicks mended, silence between the phrases: each is listed here, and any can be taken off.
        </Text>
      )}
      <MendList line={line} />
    </Card>
  )
}

function MendList({ line }: { line: Line }) {
  const chosen = useTidy(state => state.mend)
  if (line.mends.length === 0) return null
  return (
    <Box role="list" mt={2} maxH="128px" overflowY="auto" aria-label="Mends">
      {line.mends.map(mend => (
        <MendRow key={keyOfMend(mend)} mend={mend} line={line} isChosen={keyOfMend(mend) === chosen} />
      ))}
    </Box>
  )
}

function MendRow({ mend, line, isChosen }: { mend: MendInSong; line: Line; isChosen: boolean }) {
  const row = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (isChosen) row.current?.scrollIntoView({ block: 'nearest' })
  }, [isChosen])
  const where = whereOf(mend, line.words)
  return (
    <Flex
      role="listitem"
      ref={row}
      data-mend={mend.mend.kind}
      align="center"
      gap={2}
      py="3px"
      px={1}
      borderBottomWidth="1px"
      borderStyle="dashed"
      borderColor="seamline"
      bg={isChosen ? 'sunken' : undefined}
      borderRadius={isChosen ? '8px' : undefined}
      opacity={mend.isOff ? 0.7 : 1}
      onClick={() => useTidy.setState({ mend: keyOfMend(mend) })}
    >
      <SmallButton type="button" role="switch" aria-checked={!mend.isOff} aria-label={where} minW="24px" minH="24px" onClick={() => toggleMend(mend, where)}>
        <Box width="10px" height="10px" mx="auto" borderRadius="full" borderWidth="2px" borderColor="brand" bg={mend.isOff ? 'transparent' : 'brand'} />
      </SmallButton>
      <Text flex="1 1 0" minW={0} truncate>
        {where}
      </Text>
      <Box flex="0 0 84px">
        {mend.isOff ? (
          <Text color="ink.soft">taken off</Text>
        ) : mend.mend.kind === 'click' ? (
          <Text fontWeight={600}>mended</Text>
        ) : (
          <NumberField
            label={`${where}, change`}
            value={mend.mend.decibels}
            {...TIDY_RANGE_DECIBELS}
            unit="dB"
            width="52px"
            onKeep={decibels => layMend(mend, `${MEND_NAMES[mend.mend.kind]} by ${decibels} dB`, decibels)}
          />
        )}
      </Box>
      <Text flex="0 1 158px" minW={0} color="ink.soft" truncate>
        {mend.isOff ? 'as sung' : whyOf(mend, line.layer)}
      </Text>
    </Flex>
  )
}

export function toggleMend(mend: MendInSong, where: string): void {
  layMend(mend, mend.isOff ? `mend again: ${where}` : `take off: ${where}`, mend.isOff ? undefined : null)
}
