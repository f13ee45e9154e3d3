/** The shared space: what every layer's send goes into. */
import { Flex } from '@chakra-ui/react'
import { setSpace, setVocalBus } from '../../../core/mix/commands'
import type { Song } from '../../../core/song/schema'
import { Card, CardTitle } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { useSong } from '../../song/song-store'

const setLevel = (song: Song, gainDecibels: number) => setSpace(song, { gainDecibels })
const setDecay = (song: Song, decaySeconds: number) => setSpace(song, { decaySeconds })
const setPreDelay = (song: Song, milliseconds: number) => setSpace(song, { preDelaySeconds: milliseconds / 1_000 })
const setDamping = (song: Song, dampingHz: number) => setSpace(song, { dampingHz })
const setVocals = (song: Song, gainDecibels: number) => setVocalBus(song, { gainDecibels })

export function SpaceCard() {
  const space = useSong(song => song.space)
  const vocalGain = useSong(song => song.vocalBus.gainDecibels)
  return (
    <Card>
      <CardTitle>Space and vocal level</CardTitle>
      <Flex direction="column" gap="6px" mt={3}>
        <SongSlider
          label={`${space.name} level`}
          showLabel={space.name}
          value={space.gainDecibels}
          min={-60}
          max={12}
          step={0.5}
          unit="dB"
          stepLabel="set the space's level"
          command={setLevel}
        />
        <SongSlider
          label={`${space.name} decay`}
          showLabel="Decay"
          value={space.decaySeconds}
          min={0.2}
          max={10}
          step={0.1}
          unit="s"
          stepLabel="set the decay"
          command={setDecay}
        />
        <SongSlider
          label={`${space.name} pre-delay`}
          showLabel="Pre-delay"
          value={space.preDelaySeconds * 1_000}
          min={0}
          max={200}
          step={1}
          digits={0}
          unit="ms"
          stepLabel="set the pre-delay"
          command={setPreDelay}
        />
        <SongSlider
          label={`${space.name} damping`}
          showLabel="Bright to"
          value={space.dampingHz}
          min={500}
          max={20_000}
          step={100}
          digits={0}
          unit="Hz"
          stepLabel="set the damping"
          command={setDamping}
        />
        <SongSlider
          label="All voices, level"
          showLabel="All voices"
          value={vocalGain}
          min={-60}
          max={12}
          step={0.5}
          unit="dB"
          stepLabel="set the vocal level"
          command={setVocals}
        />
      </Flex>
    </Card>
  )
}
