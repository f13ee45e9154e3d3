/** What voices and beat go through together, in words; and the way to it. */
import { Flex, Text } from '@chakra-ui/react'
import { stepsOf } from '../../../core/mix/recipes'
import { Pill } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { openWhole } from './mix-store'
import { STEP_NAMES } from './setting-words'

export function WholeMix() {
  const recipe = useSong(song => song.output.recipe)
  const names = stepsOf(recipe).map(({ kind }) => STEP_NAMES[kind].toLowerCase())
  return (
    <Flex align="center" gap={2} mt={2} wrap="wrap">
      <Text flex="1 1 180px" fontSize="13px">
        {names.length > 0 ? `Voices and beat together go through: ${names.join(', ')}.` : 'Voices and beat together go through nothing but the ceiling.'}
      </Text>
      <Pill size="xs" px={3} onClick={openWhole}>
        The whole mix’s recipe
      </Pill>
    </Flex>
  )
}
