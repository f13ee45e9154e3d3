/** Mix: does it sit on the beat? */
import { Box, Flex, Grid } from '@chakra-ui/react'
import { useEffect } from 'react'
import { setBusGain } from '../../../core/mix/commands'
import { NoLayers } from '../../shared/no-layers'
import { RoomHeading, Well } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { BeforeAfter } from './before-after'
import { BeatStrip, LayerStrip } from './mix-strip'
import { OutputMeters } from './output-meters'
import { RecipeCard } from './recipe-card'
import { SpaceCard } from './space-card'

export function MixRoom() {
  const layers = useSong(song => song.layers)
  const buses = useSong(song => song.buses)
  useEffect(() => () => useView.setState({ view: { kind: 'song' } }), [])
  return (
    <>
      <RoomHeading above="Voices on their role buses, the vocal bus, the output" title="Does it sit on the beat?">
        <BeforeAfter />
      </RoomHeading>
      <Grid templateColumns={{ base: 'minmax(0, 1fr)', xl: 'minmax(0, 1.25fr) minmax(0, 1fr)' }} gap={4} alignItems="start">
        <Well p={3}>
          {layers.length === 0 ? <NoLayers why="Here each has its level and place." /> : null}
          {layers.map((layer, index) => (
            <LayerStrip key={layer.id} layer={layer} index={index} />
          ))}
          <Box borderTopWidth="2px" borderStyle="dashed" borderColor="seamline" my={1} />
          <BeatStrip />
        </Well>
        <Flex direction="column" gap={4}>
          <RecipeCard />
          <SpaceCard />
          <OutputMeters />
          {buses.length > 0 ? (
            <Box as="details" bg="card" borderRadius="card" p={4}>
              <Box as="summary" fontFamily="heading" fontWeight={600} cursor="pointer">
                Role buses
              </Box>
              <Flex direction="column" gap={2} mt={3}>
                {buses.map(bus => (
                  <SongSlider
                    key={bus.role}
                    label={`${bus.name} bus level`}
                    showLabel={bus.name}
                    value={bus.gainDecibels}
                    min={-24}
                    max={12}
                    step={0.5}
                    unit="dB"
                    stepLabel={`set the ${bus.name} bus`}
                    command={(song, gainDecibels) => setBusGain(song, { role: bus.role, gainDecibels })}
                  />
                ))}
              </Flex>
            </Box>
          ) : null}
        </Flex>
      </Grid>
    </>
  )
}
