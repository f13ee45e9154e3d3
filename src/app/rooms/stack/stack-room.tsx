/** Stack: is it wide and thick enough? */
import { Flex, Grid } from '@chakra-ui/react'
import { NoLayers } from '../../shared/no-layers'
import { RoomHeading } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { CopiesNotice } from './copies-notice'
import { DoubleCard } from './double-card'
import { LayerList } from './layer-list'
import { PartCard } from './part-card'
import { Quilt } from './quilt'
import { WithLeadCard } from './with-lead-card'

export function StackRoom() {
  const layers = useSong(song => song.layers)
  return (
    <>
      <RoomHeading above="Lines by layers: what is picked, sung, missing" title="Is it wide and thick enough?" />
      {layers.length === 0 ? (
        <NoLayers why="Here they are seen side by side." />
      ) : (
        <Flex direction="column" gap={4}>
          <Quilt />
          <CopiesNotice />
          <Grid templateColumns={{ base: '1fr', xl: 'minmax(0, 1fr) minmax(0, 1.1fr)' }} gap={4} alignItems="start">
            <Flex direction="column" gap={4} minW={0}>
              <WithLeadCard />
              <DoubleCard />
            </Flex>
            <Flex direction="column" gap={4} minW={0}>
              <PartCard />
              <LayerList />
            </Flex>
          </Grid>
        </Flex>
      )}
    </>
  )
}
