/** The layer as it was sung against what is laid over it, at equal loudness. */
import { Text } from '@chakra-ui/react'
import { setBeatMix } from '../../../core/mix/commands'
import type { LayerId, Song } from '../../../core/song/schema'
import { formatDecibels } from '../../shared/format'
import { KeyCap, Pill } from '../../shared/parts'
import { hearAsLoud, hearTheSong, useMatching } from '../../song/equal-loudness'
import { currentSong } from '../../song/song-store'
import { useView } from '../../song/view-store'

/** The layer by itself: what else sounds would hide what is done to its loudness. */
export function alone(song: Song, layerId: LayerId): Song {
  const quiet = setBeatMix(song, { muted: true, soloed: false })
  return { ...quiet, layers: quiet.layers.map(layer => ({ ...layer, muted: layer.id !== layerId, soloed: false })) }
}

export function hearAsSung(layerId: LayerId): Promise<void> {
  return hearAsLoud(alone(currentSong(), layerId), gainDecibels => ({ kind: 'as-sung', layerId, gainDecibels }))
}

export function AsSung({ layerId }: { layerId: LayerId }) {
  const view = useView(state => state.view)
  const { matching } = useMatching()
  const isAsSung = view.kind === 'as-sung' && view.layerId === layerId
  const isWithout = view.kind === 'without' && view.layerId === layerId
  return (
    <>
      {isWithout ? (
        <Text alignSelf="center" color="ink.soft" role="status">
          Without it: {formatDecibels(view.gainDecibels, -Infinity)}
        </Text>
      ) : null}
      {isAsSung ? (
        <Text alignSelf="center" color="ink.soft" role="status">
          Equal loudness: as sung {formatDecibels(view.gainDecibels, -Infinity)}
        </Text>
      ) : null}
      <Pill chosen={isAsSung} disabled={matching} onClick={() => void hearAsSung(layerId)}>
        {matching ? 'Matching loudness …' : 'As sung'} <KeyCap>A</KeyCap>
      </Pill>
      <Pill chosen={!isAsSung && !isWithout} onClick={hearTheSong}>
        With it
      </Pill>
    </>
  )
}
