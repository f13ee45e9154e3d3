/** Mix: does it sit on the beat? */
import { Box, Flex, Grid } from '@chakra-ui/react'
import { useEffect } from 'react'
import { setBeatMix, setBusGain, setVocalGain } from '../../../core/mix/commands'
import type { Song } from '../../../core/song/schema'
import { isTyping } from '../../frame/use-song-keys'
import { NoLayers } from '../../shared/no-layers'
import { Card, CardTitle, Pill, RoomHeading, Well } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { hearTheSong } from '../../song/equal-loudness'
import { currentSong, useSong } from '../../song/song-store'
import { toggleMono, toggleSmall } from '../../song/view-store'
import { BeatSheet } from './beat-sheet'
import { BeforeAfter } from './before-after'
import { ColoursSheet } from './colours-sheet'
import { CompareSheet, toggleChosenKept } from './compare-sheet'
import { FirstMixSheet } from './first-mix-sheet'
import { hearWithoutChosen } from './hear-without'
import { useMix, type Sheet } from './mix-store'
import { OutputMeters } from './output-meters'
import { RecipeSheet } from './recipe-sheet'
import { RideSheet } from './ride-sheet'
import { toggleReference } from './second-opinion'
import { SpacesSheet, toggleAlone } from './spaces-sheet'
import { ThrowsSheet, toggleThrow } from './throws-sheet'
import { BeatRow, LayerRow, useWholeSong } from './voice-row'

const SHEETS: [Sheet, string][] = [
  ['first', 'First mix'],
  ['recipe', 'Recipes'],
  ['spaces', 'Spaces'],
  ['throws', 'Throws'],
  ['colours', 'Colours'],
  ['ride', 'Rides'],
  ['beat', 'Beat'],
  ['compare', 'Compare'],
  ['output', 'Output'],
]

export function MixRoom() {
  const layers = useSong(song => song.layers)
  const sheet = useMix(state => state.sheet)
  const view = useWholeSong()
  useEffect(() => hearTheSong, [])
  useMixKeys()
  return (
    <>
      <RoomHeading above="Each voice, its role, all voices, the output" title="Does it sit on the beat?">
        <BeforeAfter />
      </RoomHeading>
      <Flex gap="6px" mb={2} wrap={{ base: 'wrap', md: 'nowrap' }} role="group" aria-label="What to work on">
        {SHEETS.map(([name, label]) => (
          <Pill key={name} px={3} chosen={sheet === name} onClick={() => useMix.setState({ sheet: name })}>
            {label}
          </Pill>
        ))}
      </Flex>
      <Grid templateColumns={{ base: 'minmax(0, 1fr)', md: 'minmax(0, 1.3fr) minmax(0, 1fr)' }} gap={3} alignItems="start">
        <Well p={2}>
          {layers.length === 0 ? <NoLayers why="Here each has its level and place." /> : null}
          {layers.map(layer => (
            <LayerRow key={layer.id} layer={layer} view={view} />
          ))}
          <Box borderTopWidth="2px" borderStyle="dashed" borderColor="seamline" my={1} />
          <BeatRow view={view} />
        </Well>
        <Box>
          {sheet === 'first' ? <FirstMixSheet /> : null}
          {sheet === 'recipe' ? <RecipeSheet /> : null}
          {sheet === 'spaces' ? <SpacesSheet /> : null}
          {sheet === 'throws' ? <ThrowsSheet /> : null}
          {sheet === 'colours' ? <ColoursSheet /> : null}
          {sheet === 'ride' ? <RideSheet /> : null}
          {sheet === 'beat' ? <BeatSheet /> : null}
          {sheet === 'compare' ? <CompareSheet /> : null}
          {sheet === 'output' ? <OutputSheet /> : null}
        </Box>
      </Grid>
    </>
  )
}

/** Mix's keys. */
function useMixKeys(): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return
      const asked = ({ f: 'first', c: 'recipe', s: 'spaces', p: 'colours', r: 'ride', b: 'beat', o: 'output' } as const)[event.key]
      if (asked) useMix.setState({ sheet: asked })
      else if (event.key === 'm') toggleMono()
      else if (event.key === 'z') toggleSmall()
      else if (event.key === 'n') hearWithoutChosen()
      else if (event.key === 'y') void toggleReference()
      else if (event.key === 'x') {
        if (useMix.getState().sheet === 'compare') toggleChosenKept()
        else useMix.setState({ sheet: 'compare' })
      } else if (event.key === 't') {
        if (useMix.getState().sheet === 'throws') toggleThrow()
        else useMix.setState({ sheet: 'throws' })
      } else if (event.key === 'h') {
        const { spaces } = currentSong()
        const space = spaces.find(entry => entry.id === useMix.getState().spaceId) ?? spaces[0]
        if (space) toggleAlone(space.id)
      }
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
}

const setBeat = (song: Song, gainDecibels: number) => setBeatMix(song, { gainDecibels })
const setVoices = (song: Song, gainDecibels: number) => setVocalGain(song, { gainDecibels })

function OutputSheet() {
  const buses = useSong(song => song.buses)
  const voices = useSong(song => song.vocalBus.gainDecibels)
  const beat = useSong(song => song.beat.gainDecibels)
  return (
    <Flex direction="column" gap={3}>
      <OutputMeters />
      <Card p={3}>
        <CardTitle>Balance</CardTitle>
        <Flex direction="column" gap="6px" mt={2}>
          <SongSlider
            label="The beat, level"
            showLabel="Beat"
            value={beat}
            min={-60}
            max={12}
            step={0.5}
            unit="dB"
            stepLabel="set the beat's level"
            command={setBeat}
          />
          <SongSlider
            label="All voices, level"
            showLabel="All voices"
            value={voices}
            min={-60}
            max={12}
            step={0.5}
            unit="dB"
            stepLabel="set the level of all voices"
            command={setVoices}
          />
          {buses.map(bus => (
            <SongSlider
              key={bus.role}
              label={`${bus.name} together, level`}
              showLabel={bus.name}
              value={bus.gainDecibels}
              min={-24}
              max={12}
              step={0.5}
              unit="dB"
              stepLabel={`set the ${bus.name} together`}
              command={(song, gainDecibels) => setBusGain(song, { role: bus.role, gainDecibels })}
            />
          ))}
        </Flex>
      </Card>
    </Flex>
  )
}
