/** How much clearer the voices are over the beat that makes room for them than over the beat as it is. */
import type { Planar } from '../audio/frames'
import { NO_ROOM } from '../song/beat-room'
import type { Song } from '../song/schema'
import type { FrameRange } from '../song/select'
import type { PrintTable } from '../prints/jobs'
import { clarityOf } from './clarity'
import { planMix } from './plan'
import { joinPlanes, renderOffline, type AssetStore } from './render-offline'

/** Shares of one; null where no voice sounds. */
export type Clarity = { without: number; withRoom: number } | null

/** As mixed, voices with what spaces answer. @param range In frames of the song. */
export async function clarityInMix(
  song: Song,
  range: FrameRange,
  { store, prints, onProgress }: { store: AssetStore; prints: PrintTable; onProgress?: (fraction: number) => void },
): Promise<Clarity> {
  const rendered: Planar[] = []
  const render = async (of: Song, stem?: readonly []) => {
    const pieces: Planar[] = []
    const plan = planMix(of, { kind: 'song' }, prints)
    await renderOffline({ plan: stem ? { ...plan, stem } : plan, store, range, sink: planes => void pieces.push(planes) })
    rendered.push(joinPlanes(pieces))
    onProgress?.(rendered.length / 3)
    return rendered.at(-1)!
  }
  const voices = await render({ ...song, beat: { ...song.beat, muted: true, soloed: false } })
  const room = await render(song, [])
  const bare = await render({ ...song, beat: { ...song.beat, room: NO_ROOM } }, [])
  const [without, withRoom] = [clarityOf(voices, bare), clarityOf(voices, room)]
  return Number.isFinite(without) && Number.isFinite(withRoom) ? { without, withRoom } : null
}
