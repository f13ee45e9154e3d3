/** The layer as it was sung against what is laid over it, at equal loudness. */
import { Text } from '@chakra-ui/react'
import { create } from 'zustand'
import { setBeatMix } from '../../../core/mix/commands'
import type { LayerId, Song } from '../../../core/song/schema'
import { runJob } from '../../../workers/run-job'
import { formatDecibels } from '../../shared/format'
import { KeyCap, Pill } from '../../shared/parts'
import { currentSong } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'

const useMeasuring = create<{ measuring: boolean }>(() => ({ measuring: false }))

/** The layer by itself: what else sounds would hide what is done to its loudness. */
function alone(song: Song, layerId: LayerId): Song {
  const quiet = setBeatMix(song, { muted: true, soloed: false })
  return { ...quiet, layers: quiet.layers.map(layer => ({ ...layer, muted: layer.id !== layerId, soloed: false })) }
}

export async function hearAsSung(layerId: LayerId): Promise<void> {
  if (useMeasuring.getState().measuring) return
  useMeasuring.setState({ measuring: true })
  const result = await runJob('compareLoudness', {
    song: alone(currentSong(), layerId),
    views: [{ kind: 'as-sung', layerId, gainDecibels: 0 }, { kind: 'song' }],
    range: rangeOf(currentSong(), useView.getState().selection),
  })
  useMeasuring.setState({ measuring: false })
  const gainDecibels = result.kind === 'done' ? Math.max(-12, Math.min(12, result.value)) : 0
  useView.setState({ view: { kind: 'as-sung', layerId, gainDecibels } })
}

export function hearAsLaid(): void {
  useView.setState({ view: { kind: 'song' } })
}

export function AsSung({ layerId }: { layerId: LayerId }) {
  const view = useView(state => state.view)
  const { measuring } = useMeasuring()
  const isAsSung = view.kind === 'as-sung' && view.layerId === layerId
  return (
    <>
      {isAsSung ? (
        <Text alignSelf="center" color="ink.soft" role="status">
          Equal loudness: as sung {formatDecibels(view.gainDecibels, -Infinity)}
        </Text>
      ) : null}
      <Pill chosen={isAsSung} disabled={measuring} onClick={() => void hearAsSung(layerId)}>
        {measuring ? 'Matching loudness …' : 'As sung'} <KeyCap>A</KeyCap>
      </Pill>
      <Pill chosen={!isAsSung} onClick={hearAsLaid}>
        With it
      </Pill>
    </>
  )
}
