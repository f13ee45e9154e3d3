/** A room that needs layers, in a song that has none: with the button that lays them out. */
import { Flex } from '@chakra-ui/react'
import { layOutTemplate } from '../song/lay-out'
import { TemplateSelect } from '../song/template-select'
import { EmptyState, PrimaryButton } from './parts'

/** @param why What the room does with layers. */
export function NoLayers({ why }: { why: string }) {
  return (
    <EmptyState text={`There are no layers yet. ${why} A template lays them out, named and placed; more can be added at any time.`}>
      <Flex gap={2} justify="center" wrap="wrap">
        <TemplateSelect />
        <PrimaryButton onClick={() => layOutTemplate()}>Lay out the layers</PrimaryButton>
      </Flex>
    </EmptyState>
  )
}
