/** A ride that is proposed: the voice is listened to line by line against the beat; shown and heard before it is taken. */
import { Flex, Text } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import { rideOf, setRide, unriddenValue, type Ridden } from '../../../core/mix/rides'
import { proposeRide, RIDE_LIMIT_DECIBELS } from '../../../core/propose/ride'
import type { Layer, LineId } from '../../../core/song/schema'
import { GAIN_RANGE_DECIBELS } from '../../../core/song/schema'
import { JobRow } from '../../shared/job-row'
import { NumberField } from '../../shared/number-field'
import { Pill } from '../../shared/parts'
import { useJob } from '../../shared/use-job'
import { currentSong, edit, tryOut, useSong, useSongStore } from '../../song/song-store'

interface RideProposalProps {
  layer: Layer
  of: Ridden
  /** Such as "Lead's level". */
  what: string
}

export function RideProposal({ layer, of, what }: RideProposalProps) {
  const song = useSong(current => current)
  const isTried = useSongStore(state => state.trial !== null)
  const [limitDecibels, setLimit] = useState<number>(RIDE_LIMIT_DECIBELS.usual)
  const [over, setOver] = useState<ReadonlyMap<LineId, number> | null>(null)
  const job = useJob()
  // The room may be left while it is tried.
  useEffect(() => () => tryOut(null), [])
  const base = of.kind === 'level' ? 0 : unriddenValue(layer, of)
  if (of.kind === 'place') return null
  if (of.kind === 'send' && base <= GAIN_RANGE_DECIBELS.min && rideOf(layer, of).length === 0) return null
  const listen = async () => {
    tryOut(null)
    const heard = await job.run('readRide', { song: currentSong(), layerId: layer.id, of })
    if (heard) setOver(heard)
  }
  const proposed = over && proposeRide(song, over, { base, limitDecibels })
  const place = { layerId: layer.id, of }
  const hear = () => tryOut(isTried || !proposed ? null : current => setRide(current, { ...place, points: proposed.points }))
  const take = () => {
    if (!proposed) return
    tryOut(null)
    edit(`ride ${what}`, current => setRide(current, { ...place, points: proposed.points }))
    setOver(null)
  }
  return (
    <Flex direction="column" gap={2} mb={2} role="group" aria-label="A ride by ear">
      <Flex gap={2} align="center" wrap="wrap">
        <JobRow job={job} label="Listening to its lines and the beat" failedText="It could not be listened to; nothing was changed. Try again.">
          <Pill size="xs" px={3} onClick={() => void listen()}>
            {over ? 'Listen again' : 'Propose a ride'}
          </Pill>
        </JobRow>
        <Text fontSize="12px" color="ink.soft">
          by at most
        </Text>
        <NumberField
          label="A ride goes no further than"
          value={limitDecibels}
          min={RIDE_LIMIT_DECIBELS.min}
          max={RIDE_LIMIT_DECIBELS.max}
          unit="dB"
          width="44px"
          onKeep={setLimit}
        />
      </Flex>
      {over ? (
        <Flex gap={2} align="center" wrap="wrap">
          <Text role="status" fontSize="13px" flex="1 1 160px">
            {proposed
              ? `Over the beat its lines lie ${proposed.spreadLu.toFixed(1)} LU apart; so ridden, ${proposed.leftLu.toFixed(1)}.`
              : 'Its lines lie together over the beat as it is: no ride is needed.'}
          </Text>
          {proposed ? (
            <>
              <Pill size="xs" px={3} chosen={isTried} onClick={hear}>
                Hear it
              </Pill>
              <Pill size="xs" px={3} onClick={take}>
                Take it
              </Pill>
            </>
          ) : null}
        </Flex>
      ) : null}
    </Flex>
  )
}
