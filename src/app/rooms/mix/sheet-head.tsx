/** The head of a sheet that works on one voice: its title, and whose words they are. */
import { Box, Flex } from '@chakra-ui/react'
import type { Layer } from '../../../core/song/schema'
import { CardTitle } from '../../shared/parts'
import { PillSelect } from '../../shared/pill-select'
import { useSong } from '../../song/song-store'
import { chooseVoice } from './mix-store'

export function SheetHead({ title, layer }: { title: string; layer: Layer }) {
  const layers = useSong(song => song.layers)
  return (
    <Flex align="center" gap={2}>
      <CardTitle>{title}</CardTitle>
      <Box flex="1" />
      <PillSelect
        size="xs"
        width="128px"
        label="Whose words"
        value={layer.id}
        options={layers.map(({ id, name }) => ({ value: id, label: name }))}
        onChoose={id => chooseVoice(id as Layer['id'])}
      />
    </Flex>
  )
}
