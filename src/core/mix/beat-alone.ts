/** The beat as arranged, by itself, as one channel. */
import { mixToMono, type Mono } from '../audio/frames'
import type { PrintTable } from '../prints/jobs'
import type { Song } from '../song/schema'
import { lengthOf, type FrameRange } from '../song/select'
import { planMix } from './plan'
import { renderOffline, type AssetStore } from './render-offline'

/** At the song's own level, muted or not. */
export async function renderBeatAlone(song: Song, range: FrameRange, { store, prints }: { store: AssetStore; prints: PrintTable }): Promise<Mono> {
  const played = new Float32Array(lengthOf(range))
  let at = 0
  await renderOffline({
    plan: planMix(song, { kind: 'only', beat: true, layerIds: [] }, prints),
    store,
    range,
    sink: planes => {
      played.set(mixToMono(planes).subarray(0, played.length - at), at)
      at += planes[0].length
    },
  })
  return played
}
