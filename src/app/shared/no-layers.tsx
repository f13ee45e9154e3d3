/** A room that needs layers, in a song that has none: with the button that lays them out. */
import { layOutTemplate } from '../song/lay-out'
import { EmptyState, PrimaryButton } from './parts'

/** @param why What the room does with layers. */
export function NoLayers({ why }: { why: string }) {
  return (
    <EmptyState text={`There are no layers yet. ${why} The template lays out lead, doubles, harmonies and ad-libs, named and placed.`}>
      <PrimaryButton onClick={layOutTemplate}>Lay out the vocal template</PrimaryButton>
    </EmptyState>
  )
}
