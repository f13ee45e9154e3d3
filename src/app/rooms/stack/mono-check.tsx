/** What is lost on one loudspeaker, measured over the selection, by role and by pair; and heard, on a key. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { MonoCheck as Checked } from '../../../core/mix/mono-check'
import type { Song } from '../../../core/song/schema'
import { BUS_NAMES } from '../../../core/layers/roles'
import { KeyCap, Pill } from '../../shared/parts'
import { JobRow } from '../../shared/job-row'
import { useJob } from '../../shared/use-job'
import { currentSong, useSong } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'

/** More than what a wide pair loses by its nature. */
const WORTH_A_WORD_DECIBELS = -3.5

export function MonoCheck() {
  const song = useSong(current => current)
  const inMono = useView(state => state.inMono)
  const selection = useView(state => state.selection)
  const job = useJob()
  const [found, setFound] = useState<{ of: Song; check: Checked } | null>(null)
  const measure = async () => {
    const of = currentSong()
    const check = await job.run('checkMono', { song: of, range: rangeOf(of, selection) })
    if (check) setFound({ of, check })
  }
  return (
    <Box mt={3} pt={3} borderTopWidth="1px" borderColor="seamline">
      <Flex align="center" gap={2} wrap="wrap">
        <Pill size="sm" chosen={inMono} onClick={() => useView.setState({ inMono: !inMono })}>
          Hear it in mono <KeyCap>M</KeyCap>
        </Pill>
        <JobRow job={job} label="Measuring in mono" failedText="It could not be measured; nothing was changed. Try again.">
          <Pill size="sm" onClick={() => void measure()}>
            Measure what mono takes here
          </Pill>
        </JobRow>
      </Flex>
      {found ? <Verdict song={song} check={found.check} isStale={found.of !== song} /> : null}
    </Box>
  )
}

function Verdict({ song, check, isStale }: { song: Song; check: Checked; isStale: boolean }) {
  if (check.roles.length === 0)
    return (
      <Text mt={2} color="ink.soft">
        No voice sounds in the selected lines.
      </Text>
    )
  const nameOf = (id: string) => song.layers.find(layer => layer.id === id)?.name ?? 'a layer that is gone'
  return (
    <Box mt={2} role="status">
      <Flex gap={4} wrap="wrap">
        {check.roles.map(({ role, lossDecibels }) => (
          <Text key={role} color={lossDecibels < WORTH_A_WORD_DECIBELS ? 'warn' : 'ink'} fontWeight={role === 'voices' ? 600 : 400}>
            {role === 'voices' ? 'All voices' : BUS_NAMES[role]} {lossDecibels > -0.05 ? '±0' : `−${Math.abs(lossDecibels).toFixed(1)}`} dB
          </Text>
        ))}
      </Flex>
      <Text color="ink.soft" mt={1}>
        {check.cancelling.length === 0
          ? 'No two voices take each other away. A voice all on one side loses 3 dB by its nature.'
          : check.cancelling
              .map(
                ({ layerIds, lossDecibels }) =>
                  `${nameOf(layerIds[0])} and ${nameOf(layerIds[1])} take ${Math.abs(lossDecibels).toFixed(1)} dB from each other`,
              )
              .join('; ') + '. Two takes of one line never do: look for a copy.'}
        {isStale ? ' Measured before the last change.' : ''}
      </Text>
    </Box>
  )
}
