/** What can be done to the beat under the chosen section, or some of its bars: again, left out, later, silent, coloured. */
import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { barCountUntil } from '../../../core/beat/grid'
import { levelDecibels, LOWEST_LEVEL_DECIBELS } from '../../../core/beat/treatments'
import { areBarsMuted, dropBars, muteBars, removeTreatments, repeatBars, swapBars, treatmentsOver, type BarRange } from '../../../core/song/arrangement'
import { TREATMENT_KINDS, type TreatmentKind } from '../../../core/beat/treatment-kinds'
import type { Section } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { treatmentTitle } from '../../shared/beat-cloth'
import { NumberField } from '../../shared/number-field'
import { Pill } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { rearrange, treatBars } from './arrange'

interface BarActionsProps {
  section: Section
  /** The bars that are worked on: the section's own, or others near them. */
  range: BarRange
  onRange: (range: BarRange) => void
}

export function BarActions({ section, range, onRange }: BarActionsProps) {
  const song = useSong(current => current)
  const [busy, setBusy] = useState(false)
  const [kind, setKind] = useState<TreatmentKind>('far away')
  const [amount, setAmount] = useState(0.5)
  const end = range.startBar + range.barCount
  const isWhole = range.startBar === section.startBar && range.barCount === section.barCount
  const name = isWhole ? section.name : range.barCount === 1 ? `bar ${range.startBar}` : `bars ${range.startBar} to ${end - 1}`
  const lastBar = barCountUntil(song.beat.grid, song.beat.frames)
  // A section changes places with the next, some bars with as many after them.
  const nextBarCount = isWhole ? (song.sections.find(entry => entry.startBar === end)?.barCount ?? 0) : Math.min(range.barCount, lastBar + 1 - end)
  const choose = (from: number, to: number) => onRange({ startBar: Math.min(from, to), barCount: Math.abs(to - from) + 1 })
  const silent = areBarsMuted(song, range)
  const colours = treatmentsOver(song, range)
  const work = async (task: () => Promise<void>) => {
    setBusy(true)
    await task()
    setBusy(false)
  }
  return (
    <Flex align="center" gap={2} mt={2} wrap="wrap">
      <Flex align="center" gap={1} color="ink.soft">
        The beat in bars
        <NumberField
          label="From bar"
          value={range.startBar}
          min={1}
          max={lastBar}
          digits={0}
          width="44px"
          onKeep={bar => choose(Math.round(bar), Math.max(Math.round(bar), end - 1))}
        />
        to
        <NumberField
          label="To bar"
          value={end - 1}
          min={1}
          max={lastBar}
          digits={0}
          width="44px"
          onKeep={bar => choose(Math.min(Math.round(bar), range.startBar), Math.round(bar))}
        />
      </Flex>
      <Pill disabled={busy} onClick={() => void work(() => rearrange(`repeat ${name}`, current => repeatBars(current, { ...range, makeId })))}>
        Again
      </Pill>
      <Pill
        disabled={busy || range.barCount >= lastBar}
        onClick={() => void work(() => rearrange(`leave out ${name}`, current => dropBars(current, { ...range, makeId })))}
      >
        Leave out
      </Pill>
      <Pill
        disabled={busy || nextBarCount < 1}
        onClick={() => void work(() => rearrange(`move ${name} later`, current => swapBars(current, { ...range, nextBarCount, makeId })))}
      >
        Later
      </Pill>
      <Pill
        chosen={silent}
        onClick={() =>
          edit(silent ? `let the beat sound in ${name}` : `silence the beat in ${name}`, current => muteBars(current, { ...range, muted: !silent }))
        }
      >
        {silent ? 'Let it sound' : 'Silent'}
      </Pill>
      <Flex align="center" gap={2} ml="auto">
        <NativeSelect.Root size="sm" width="124px">
          <NativeSelect.Field
            aria-label="Colour"
            bg="card"
            borderColor="seamline"
            value={kind}
            onChange={event => setKind(event.target.value as TreatmentKind)}
          >
            {TREATMENT_KINDS.map(entry => (
              <option key={entry}>{entry}</option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Box>
          {kind === 'level' ? (
            <NumberField
              label="Colour level"
              value={levelDecibels(amount)}
              min={LOWEST_LEVEL_DECIBELS}
              max={0}
              unit="dB"
              width="44px"
              onKeep={decibels => setAmount(decibels / LOWEST_LEVEL_DECIBELS)}
            />
          ) : (
            <NumberField
              label="Amount"
              value={Math.round(amount * 100)}
              min={0}
              max={100}
              digits={0}
              unit="%"
              width="44px"
              onKeep={percent => setAmount(percent / 100)}
            />
          )}
        </Box>
        <Pill disabled={busy} onClick={() => treatBars(`colour ${name}: ${treatmentTitle({ kind, amount })}`, range, { kind, amount })}>
          Colour it
        </Pill>
        {colours.length > 0 ? (
          <Pill onClick={() => edit(`the plain beat in ${name}`, current => removeTreatments(current, { ids: colours.map(({ id }) => id) }))}>Plain again</Pill>
        ) : null}
      </Flex>
      {song.takes.length > 0 ? (
        <Text color="ink.soft" width="100%">
          Takes stay where they are in time when bars move under them.
        </Text>
      ) : null}
    </Flex>
  )
}
