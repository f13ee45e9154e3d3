/** What becomes of a space's answer: it gives way to the voices, and goes on into another space. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useCallback } from 'react'
import { mayFeed, setSpace } from '../../../core/mix/spaces'
import { DUCK_RANGES, type Space, type SpaceId } from '../../../core/song/mix-schema'
import { GAIN_RANGE_DECIBELS, type Song } from '../../../core/song/schema'
import { formatDecibels } from '../../shared/format'
import { PillSelect } from '../../shared/pill-select'
import { SongSlider } from '../../shared/song-slider'
import { edit, useSong } from '../../song/song-store'

/** An answer that gives way to the voices that feed it. */
export function HeldDown({
  space: { name, duckDecibels, duckReleaseSeconds },
  command,
}: {
  space: Space
  command: (song: Song, settings: Record<string, number>) => Song
}) {
  const held = useCallback((song: Song, decibels: number) => command(song, { duckDecibels: decibels }), [command])
  const back = useCallback((song: Song, milliseconds: number) => command(song, { duckReleaseSeconds: milliseconds / 1_000 }), [command])
  return (
    <Flex direction="column" gap="5px" mt="5px">
      <SongSlider
        label={`${name}: held down while it is sung`}
        showLabel="Held down"
        value={duckDecibels}
        {...DUCK_RANGES.duckDecibels}
        step={0.5}
        unit="dB"
        stepLabel={`hold ${name} down while it is sung`}
        command={held}
      />
      {duckDecibels > 0 ? (
        <SongSlider
          label={`${name}: comes back in`}
          showLabel="Comes back"
          value={duckReleaseSeconds * 1_000}
          min={DUCK_RANGES.duckReleaseSeconds.min * 1_000}
          max={DUCK_RANGES.duckReleaseSeconds.max * 1_000}
          step={10}
          digits={0}
          unit="ms"
          stepLabel={`set how fast ${name} comes back`}
          command={back}
        />
      ) : null}
    </Flex>
  )
}

/** Another space that an answer goes on into. */
export function GoesOn({ space: { id, name, feeds } }: { space: Space }) {
  const song = useSong(current => current)
  const command = useCallback(
    (current: Song, gainDecibels: number) => {
      const fed = current.spaces.find(space => space.id === id)?.feeds
      return fed ? setSpace(current, { spaceId: id, feeds: { ...fed, gainDecibels } }) : current
    },
    [id],
  )
  const others = song.spaces.filter(other => other.id !== id && mayFeed(song, id, other.id))
  if (others.length === 0 && !feeds) return null
  return (
    <>
      <Flex align="center" gap={3} mt="5px">
        <Text flex="0 0 92px">Goes on into</Text>
        <PillSelect
          size="xs"
          flex="1"
          label={`${name} goes on into`}
          value={feeds?.spaceId ?? ''}
          options={[{ value: '', label: 'nothing else' }, ...others.map(other => ({ value: other.id as string, label: other.name }))]}
          onChoose={to =>
            edit(`send ${name} on`, current =>
              setSpace(current, { spaceId: id, feeds: to ? { spaceId: to as SpaceId, gainDecibels: feeds?.gainDecibels ?? -6 } : null }),
            )
          }
        />
      </Flex>
      {feeds ? (
        <Box mt="5px">
          <SongSlider
            label={`${name}: how loud it goes on`}
            showLabel="As loud as"
            value={feeds.gainDecibels}
            {...GAIN_RANGE_DECIBELS}
            step={0.5}
            unit="dB"
            valueText={formatDecibels}
            stepLabel={`set how loud ${name} goes on`}
            command={command}
          />
        </Box>
      ) : null}
    </>
  )
}
