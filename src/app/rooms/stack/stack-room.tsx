/** Stack: is it wide and thick enough? */
import { Flex, Grid } from '@chakra-ui/react'
import { layTemplate } from '../../../core/layers/template'
import { makeId } from '../../../storage/database'
import { EmptyState, PrimaryButton, RoomHeading } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { DoubleCard } from './double-card'
import { LayerList } from './layer-list'
import { Quilt } from './quilt'

export function StackRoom() {
  const layers = useSong(song => song.layers)
  return (
    <>
      <RoomHeading above="Lines by layers: what is picked, sung, missing" title="Is it wide and thick enough?">
        {layers.length === 0 ? (
          <PrimaryButton onClick={() => edit('lay out the template', song => layTemplate(song, { makeId }))}>Lay out the vocal template</PrimaryButton>
        ) : null}
      </RoomHeading>
      {layers.length === 0 ? (
        <EmptyState text="There are no layers yet. The template lays out lead, doubles, harmonies and ad-libs." />
      ) : (
        <Flex direction="column" gap={4}>
          <Quilt />
          <Grid templateColumns="minmax(0, 1fr) minmax(0, 1.1fr)" gap={4} alignItems="start">
            <DoubleCard />
            <LayerList />
          </Grid>
        </Flex>
      )}
    </>
  )
}
