/** With the beat: what of it gives way while voices sing, and how much clearer they are for it. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useCallback, useState } from 'react'
import { setBeatRoom } from '../../../core/mix/commands'
import { BEAT_ROOM_RANGES, NO_ROOM, type BeatRoom } from '../../../core/song/beat-room'
import type { Song } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import type { Clarity } from '../../../core/mix/clarity-in-mix'
import { JobRow } from '../../shared/job-row'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { useJob } from '../../shared/use-job'
import { currentSong, edit, useSong } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'

interface RoomSetting {
  name: keyof BeatRoom
  label: string
  unit: string
  factor: number
  step: number
  digits: number
}
const SETTINGS: readonly RoomSetting[] = [
  { name: 'dipDecibels', label: 'Dip', unit: 'dB', factor: 1, step: 0.5, digits: 1 },
  { name: 'frequencyHz', label: 'Round', unit: 'Hz', factor: 1, step: 20, digits: 0 },
  { name: 'bandQ', label: 'Its width', unit: 'Q', factor: 1, step: 0.05, digits: 2 },
  { name: 'levelDecibels', label: 'All of it', unit: 'dB', factor: 1, step: 0.5, digits: 1 },
  { name: 'releaseSeconds', label: 'Comes back', unit: 'ms', factor: 1_000, step: 10, digits: 0 },
]
/** A beginning: what is hardly heard to go, and clears the words. */
const GENTLE: Partial<BeatRoom> = { ...NO_ROOM, dipDecibels: 4, levelDecibels: 1 }

export function BeatSheet() {
  const room = useSong(song => song.beat.room)
  const isOff = room.dipDecibels === 0 && room.levelDecibels === 0
  return (
    <Card p={3}>
      <Flex align="center" gap={2}>
        <CardTitle>The beat makes room</CardTitle>
        <Box flex="1" />
        <Pill
          size="xs"
          px={3}
          chosen={!isOff}
          onClick={() =>
            edit(isOff ? 'let the beat make room' : 'leave the beat as it is', song => setBeatRoom(song, isOff ? GENTLE : { dipDecibels: 0, levelDecibels: 0 }))
          }
        >
          {isOff ? 'Off' : 'On'}
        </Pill>
      </Flex>
      <Text mt={1} color="ink.soft">
        While voices sing, the beat gives way where they live, and a little as a whole. In between it is as it was.
      </Text>
      <Flex direction="column" gap="5px" mt={2}>
        {SETTINGS.map(setting => (
          <RoomSlider key={setting.name} setting={setting} value={room[setting.name]} />
        ))}
      </Flex>
      <HowClear room={room} />
    </Card>
  )
}

function RoomSlider({ setting: { name, label, unit, factor, step, digits }, value }: { setting: RoomSetting; value: number }) {
  const set = useCallback((song: Song, shown: number) => setBeatRoom(song, { [name]: shown / factor }), [name, factor])
  const { min, max } = BEAT_ROOM_RANGES[name]
  return (
    <SongSlider
      label={`Room in the beat: ${label}`}
      showLabel={label}
      value={value * factor}
      min={min * factor}
      max={max * factor}
      step={step}
      digits={digits}
      unit={unit}
      stepLabel={`set “${label}” of the beat's room`}
      command={set}
    />
  )
}

const percent = (share: number) => `${Math.round(100 * share)} %`

function clarityWords(clarity: Clarity): string {
  if (clarity === null) return 'No voice sings there.'
  return `Words come through by ${percent(clarity.without)}, with room by ${percent(clarity.withRoom)}.`
}

function HowClear({ room }: { room: BeatRoom }) {
  const selection = useView(state => state.selection)
  const [read, setRead] = useState<{ room: BeatRoom; range: FrameRange; clarity: Clarity } | null>(null)
  const job = useJob()
  const measure = async () => {
    const song = currentSong()
    const range = rangeOf(song, selection)
    const clarity = await job.run('readClarity', { song, range })
    setRead({ room: song.beat.room, range, clarity })
  }
  return (
    <Flex mt={3} gap={2} align="center" wrap="wrap">
      <JobRow job={job} label="Measuring how clear the voices are" failedText="It could not be measured; nothing was changed. Try again.">
        <Pill size="sm" onClick={() => void measure()}>
          How clear are they?
        </Pill>
      </JobRow>
      {read ? (
        <Text role="status" color={read.room === room ? 'ink' : 'ink.soft'}>
          {clarityWords(read.clarity)}
          {read.room === room ? '' : ' So it was then.'}
        </Text>
      ) : (
        <Text color="ink.soft">over what is selected</Text>
      )}
    </Flex>
  )
}
