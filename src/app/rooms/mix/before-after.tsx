/** The recipes against the voices as sung, at equal loudness. */
import { Text } from '@chakra-ui/react'
import { useState } from 'react'
import { setBeatMix } from '../../../core/mix/commands'
import { runJob } from '../../../workers/run-job'
import { formatDecibels } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { currentSong, useSong } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'

export function BeforeAfter() {
  const view = useView(state => state.view)
  const [measuring, setMeasuring] = useState(false)
  const bypassed = view.kind === 'without-recipe'
  const alone = useSong(song => (view.kind === 'space' ? song.spaces.find(space => space.id === view.spaceId)?.name : undefined))
  const bypass = async () => {
    setMeasuring(true)
    // Voices alone: the beat would hide what the recipes do to their loudness.
    const song = setBeatMix(currentSong(), { muted: true, soloed: false })
    const result = await runJob('compareLoudness', {
      song,
      views: [{ kind: 'without-recipe', gainDecibels: 0 }, { kind: 'song' }],
      range: rangeOf(song, useView.getState().selection),
    })
    setMeasuring(false)
    const gainDecibels = result.kind === 'done' ? Math.max(-12, Math.min(12, result.value)) : 0
    useView.setState({ view: { kind: 'without-recipe', gainDecibels } })
  }
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
      <Pill chosen={bypassed} disabled={measuring} onClick={() => void bypass()}>
        {measuring ? 'Matching loudness …' : 'As sung'}
      </Pill>
      <Pill chosen={!bypassed && alone === undefined} onClick={() => useView.setState({ view: { kind: 'song' } })}>
        With the recipes
      </Pill>
    </>
  )
}
