/** The recipes against the voices as sung, at equal loudness. */
import { Text } from '@chakra-ui/react'
import { setBeatMix } from '../../../core/mix/commands'
import { formatDecibels } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { hearAsLoud, hearTheSong, useMatching } from '../../song/equal-loudness'
import { currentSong, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'

export function BeforeAfter() {
  const view = useView(state => state.view)
  const { matching } = useMatching()
  const bypassed = view.kind === 'without-recipe'
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
      {alone === undefined ? null : (
        <Text alignSelf="center" color="ink.soft" role="status">
          Only what {alone} answers is heard
        </Text>
      )}
      <Pill chosen={bypassed} disabled={matching} onClick={() => void bypass()}>
        {matching ? 'Matching loudness …' : 'As sung'}
      </Pill>
      <Pill chosen={!bypassed && alone === undefined} onClick={hearTheSong}>
        With the recipes
      </Pill>
    </>
  )
}
