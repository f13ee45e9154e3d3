/** A first mix: the voices and the beat are listened to, and every value is proposed with its reason; taken singly or all. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { Check } from 'lucide-react'
import { useMemo } from 'react'
import { isTaken, LEAD_OVER_BEAT_LU, proposeFirstMix, takeProposal, type Proposed } from '../../../core/propose/first-mix'
import type { SongId } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import type { MixReading } from '../../../workers/contract'
import { count } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill, PrimaryButton } from '../../shared/parts'
import { JobRow } from '../../shared/job-row'
import { useJob } from '../../shared/use-job'
import { currentSong, edit, useSong } from '../../song/song-store'
import { create } from 'zustand'
import { wordsOf } from './proposal-words'

interface FirstMix {
  leadOverBeatLu: number
  /** What was heard, of which song, and with which aim. */
  reading: { of: SongId; aim: number; reading: MixReading } | null
}

/** Kept while other rooms are looked at. */
const useFirstMix = create<FirstMix>(() => ({ leadOverBeatLu: LEAD_OVER_BEAT_LU.usual, reading: null }))

export function FirstMixSheet() {
  const song = useSong(current => current)
  const { leadOverBeatLu, reading } = useFirstMix()
  const job = useJob()
  const listen = async () => {
    const of = currentSong()
    const heard = await job.run('readMix', { song: of, leadOverBeatLu })
    if (heard) useFirstMix.setState({ reading: { of: of.id, aim: leadOverBeatLu, reading: heard } })
  }
  const known = reading?.of === song.id ? reading : null
  const proposals = useMemo(
    () => (known ? proposeFirstMix(song, known.reading.facts, { leadOverBeatLu: known.aim, corrections: known.reading.corrections }) : []),
    [song, known],
  )
  const open = proposals.filter(proposed => !isTaken(song, proposed))
  return (
    <Card p={3}>
      <Flex align="center" gap={2} wrap="wrap">
        <CardTitle>A first mix</CardTitle>
        <Box flex="1" />
        <Text color="ink.soft">the lead over the beat</Text>
        <NumberField
          label="How far the lead stands over the beat"
          value={leadOverBeatLu}
          min={LEAD_OVER_BEAT_LU.min}
          max={LEAD_OVER_BEAT_LU.max}
          unit="LU"
          width="44px"
          onKeep={value => useFirstMix.setState({ leadOverBeatLu: value })}
        />
      </Flex>
      <Text mt={1} color="ink.soft">
        Levels, cuts, esses, compressors, rooms and a ride, each by what your takes and the beat are. Nothing changes until you take it.
      </Text>
      <Flex mt={2} gap={2} align="center" wrap="wrap">
        <JobRow job={job} label="Listening to voices and beat" failedText="It could not be listened to; nothing was changed. Try again.">
          {known && known.aim === leadOverBeatLu ? (
            <Pill size="sm" onClick={() => void listen()}>
              Listen again
            </Pill>
          ) : (
            <PrimaryButton size="sm" onClick={() => void listen()}>
              Listen and propose
            </PrimaryButton>
          )}
        </JobRow>
        {known && open.length > 0 ? (
          <Pill size="sm" onClick={() => takeAll(open)}>
            Take all {open.length}
          </Pill>
        ) : null}
      </Flex>
      {known ? (
        <>
          <Text mt={2} color="ink.soft" role="status">
            {proposals.length === 0
              ? 'No voice plays anything yet.'
              : open.length === 0
                ? 'All of it is taken.'
                : `${count(open.length, 'proposal')}${proposals.length > open.length ? `, ${proposals.length - open.length} taken` : ''}`}
          </Text>
          <Box as="ul" listStyleType="none" mt={1} aria-label="Proposals of a first mix" maxH="420px" overflowY="auto" tabIndex={0}>
            {proposals.map(proposed => (
              <Row key={keyOf(proposed)} proposed={proposed} taken={!open.includes(proposed)} />
            ))}
          </Box>
        </>
      ) : null}
    </Card>
  )
}

function takeAll(open: readonly Proposed[]): void {
  edit('lay a first mix', song => open.reduce((mixed, proposed) => takeProposal(mixed, proposed, makeId), song))
}

function keyOf(proposed: Proposed): string {
  const whose = 'layerId' in proposed ? proposed.layerId : 'role' in proposed ? proposed.role : proposed.spaceId
  return `${proposed.kind} ${whose} ${proposed.kind === 'cut' ? proposed.band : ''}`
}

function Row({ proposed, taken }: { proposed: Proposed; taken: boolean }) {
  const song = useSong(current => current)
  const { what, why } = wordsOf(song, proposed)
  return (
    <Flex as="li" gap={2} py="5px" align="center" borderTopWidth="1px" borderStyle={taken ? 'solid' : 'dashed'} borderColor="seamline">
      <Box flex="1" minW={0}>
        <Text fontWeight={600}>{what}</Text>
        <Text color="ink.soft" fontSize="13px">
          {why}
        </Text>
      </Box>
      {taken ? (
        <Flex align="center" gap={1} color="ok" fontSize="13px">
          <Check size={14} aria-hidden /> taken
        </Flex>
      ) : (
        <Pill size="xs" px={3} aria-label={`Take: ${what}`} onClick={() => edit(what.slice(0, 60), current => takeProposal(current, proposed, makeId))}>
          Take it
        </Pill>
      )}
    </Flex>
  )
}
