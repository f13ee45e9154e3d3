/** What is done to a voice, along its line: its own steps and its role's as small pictures, and where it is sent. */
import { Box, Flex } from '@chakra-ui/react'
import { recipeAt } from '../../../core/mix/recipes'
import type { RecipeStep } from '../../../core/song/mix-schema'
import { GAIN_RANGE_DECIBELS, type Layer } from '../../../core/song/schema'
import { count } from '../../shared/format'
import { ThrownMark } from '../../shared/thrown-mark'
import { useSong } from '../../song/song-store'
import { STEP_NAMES } from './setting-words'
import { StepPicture } from './step-picture'

const sounding = ({ enabled, steps }: { enabled: boolean; steps: RecipeStep[] }) => (enabled ? steps.filter(step => step.enabled) : [])
const namesOf = (steps: readonly RecipeStep[]) => steps.map(step => STEP_NAMES[step.kind].toLowerCase()).join(', ')

export function DoneTo({ layer }: { layer: Layer }) {
  const spaces = useSong(song => song.spaces)
  const roleRecipe = useSong(song => recipeAt(song, { kind: 'role', role: layer.role }))
  const [own, role] = [sounding(layer.recipe), sounding(roleRecipe)]
  const sent = spaces.flatMap(({ id, name }) => {
    const send = layer.sends.find(entry => entry.spaceId === id)
    if (send && send.ride.length > 0) return [`${name} ridden`]
    return send && send.gainDecibels > GAIN_RANGE_DECIBELS.min ? [`${name} ${send.gainDecibels}`] : []
  })
  const words = [
    own.length > 0 ? `by itself: ${namesOf(own)}` : null,
    role.length > 0 ? `with its role: ${namesOf(role)}` : null,
    layer.ride.length > 0 ? 'its level is ridden' : null,
    layer.panRide.length > 0 ? 'its place is ridden' : null,
    sent.length > 0 ? `sent into ${sent.join(', ')}` : null,
    layer.throws.length > 0 ? `${count(layer.throws.length, 'word')} thrown` : null,
  ].filter(entry => entry !== null)
  return (
    <Flex
      role="img"
      aria-label={words.join('; ') || 'nothing is done to it'}
      title={words.join('; ')}
      align="center"
      gap="5px"
      height="16px"
      overflow="hidden"
      position="relative"
    >
      {[...own, ...role].map((step, i) => (
        <Box key={i} flex="0 0 22px" bg="card" borderRadius="4px" px="2px" height="14px" opacity={i < own.length ? 1 : 0.7}>
          <StepPicture kind={step.kind} settings={step as unknown as Record<string, number>} height={12} />
        </Box>
      ))}
      <Box color="ink.soft" fontSize="11px" lineHeight="16px" truncate>
        {layer.ride.length > 0 ? 'level ridden · ' : ''}
        {layer.panRide.length > 0 ? 'place ridden · ' : ''}
        {sent.join(' · ')}
        {layer.throws.length > 0 ? <ThrownMark /> : null}
      </Box>
    </Flex>
  )
}
