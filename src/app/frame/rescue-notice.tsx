/** What had to be done to open a song that was not sound, said once, with the document as it was to be saved. */
import { Flex } from '@chakra-ui/react'
import type { Rescue } from '../../storage/songs'
import { count, formatMoment } from '../shared/format'
import { Notice, Pill } from '../shared/parts'
import { saveBlob } from '../shared/save-blob'
import { currentSong, useSongStore } from '../song/song-store'

export function RescueNotice() {
  const rescue = useSongStore(state => state.rescue)
  if (rescue.kind === 'none') return null
  return (
    <Notice tone="warn" title={TITLES[rescue.kind]}>
      {explain(rescue)} All its takes and sounds are kept.
      <Flex gap={2} mt={1}>
        <Pill size="xs" onClick={() => saveBlob(new Blob([rescue.raw], { type: 'application/json' }), `${currentSong().title}.json`)}>
          Save the document as it was
        </Pill>
        <Pill size="xs" onClick={() => useSongStore.setState({ rescue: { kind: 'none' } })}>
          All right
        </Pill>
      </Flex>
    </Notice>
  )
}

const TITLES: Record<Exclude<Rescue['kind'], 'none'>, string> = {
  mended: 'This song held more than a song can: it was made to fit.',
  'stepped-back': 'The last thing done could not be read: the song is as it was before.',
  snapshot: 'This song could not be read: it is as it was when it was last opened.',
}

function explain(rescue: Exclude<Rescue, { kind: 'none' }>): string {
  switch (rescue.kind) {
    case 'mended':
      return `Changed: ${rescue.mends
        .slice(0, 5)
        .map(mend => `${mend.path} (${mend.what})`)
        .join(', ')}${rescue.mends.length > 5 ? ` and ${rescue.mends.length - 5} more` : ''}.`
    case 'stepped-back':
      return `${count(rescue.stepsBack, 'step')} back was the last state that could be read.`
    case 'snapshot':
      return `That was ${formatMoment(rescue.takenAt)}, and what was done since as far as it could be read.`
  }
}
