/** The recipes against the voices as sung, at equal loudness. */
import { Text } from '@chakra-ui/react'
import { setBeatMix } from '../../../core/mix/commands'
import type { View } from '../../../core/mix/heard'
import { formatDecibels } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { hearAsLoud, hearTheSong, useMatching } from '../../song/equal-loudness'
import { currentSong, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'

/** What is heard in place of the mix, where that is not said elsewhere. */
function otherWords(view: View): string | null {
  if (view.kind === 'without-recipe' && view.place)
    return `Equal loudness: without ${view.stepId ? 'the step' : 'the recipe'} ${formatDecibels(view.gainDecibels, -Infinity)}`
  if (view.kind === 'mix') return `Equal loudness: the kept mix ${formatDecibels(view.gainDecibels, -Infinity)}`
  if (view.kind === 'reference') return `The other song is heard, ${formatDecibels(view.gainDecibels, -Infinity)}`
  return null
}

export function BeforeAfter() {
  const view = useView(state => state.view)
  const { matching } = useMatching()
  const bypassed = view.kind === 'without-recipe' && !view.place
  const others = otherWords(view)
  const alone = useSong(song => (view.kind === 'space' ? song.spaces.find(space => space.id === view.spaceId)?.name : undefined))
  // Voices alone: the beat would hide what the recipes do to their loudness.
  const bypass = () => hearAsLoud(setBeatMix(currentSong(), { muted: true, soloed: false }), gainDecibels => ({ kind: 'without-recipe', gainDecibels }))
  return (
    <>
      {bypassed ? (
        <Text alignSelf="center" color="ink.soft">
          Equal loudness: as sung {formatDecibels(view.gainDecibels, -Infinity)}
        </Text>
      ) : null}
      {others === null ? null : (
        <Text alignSelf="center" color="ink.soft" role="status">
          {others}
        </Text>
      )}
      {alone === undefined ? null : (
        <Text alignSelf="center" color="ink.soft" role="status">
          Only what {alone} answers is heard
        </Text>
      )}
      <Pill chosen={bypassed} disabled={matching} onClick={() => void bypass()}>
        {matching ? 'Matching loudness …' : 'As sung'}
      </Pill>
      <Pill chosen={!bypassed && alone === undefined && others === null} onClick={hearTheSong}>
        With the recipes
      </Pill>
    </>
  )
}
