/** A small song that sounds, and its sound, for tests of the mix. */
import { makeRandom } from '../audio/random'
import { sine } from '../audio/signals.test-kit'
import type { Mono, Planar } from '../audio/frames'
import { pickTake } from '../comp/picks'
import type { AssetId, Song } from '../song/schema'
import { EMPTY_RECIPE } from '../song/usual-mix'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { ChunkWindow, cutIntoChunks } from './chunk-window'
import type { MixPlan } from './plan'
import { joinPlanes, renderOffline, type AssetStore } from './render-offline'

const noise = (seed: number, frames: number, level: number): Mono => {
  const random = makeRandom(seed)
  return Float32Array.from({ length: frames }, () => level * (2 * random() - 1))
}
/** What lies in the store. */
export const sounds: Record<string, Planar> = {
  beat: [noise(1, 20 * 48_000, 0.1), noise(2, 20 * 48_000, 0.1)],
  'asset-1': [sine({ hz: 330, frames: 30 * 48_000, amplitude: 0.3 })],
  'asset-2': [sine({ hz: 440, frames: 30 * 48_000, amplitude: 0.3 })],
}
const chunks = Object.fromEntries(Object.entries(sounds).map(([id, planes]) => [id, [...cutIntoChunks(planes)]]))
export const store: AssetStore = {
  framesOf: id => Promise.resolve(sounds[id][0].length),
  readChunks: (id, indices) => Promise.resolve(indices.map(index => chunks[id][index])),
}
/** All of it at hand. */
export function wholeWindow(): ChunkWindow {
  const window = new ChunkWindow()
  for (const [id, planes] of Object.entries(sounds)) chunks[id].forEach((chunk, i) => window.put(id as AssetId, planes[0].length, i, chunk))
  return window
}
/** The small song with two takes on the lead, each picked for a line. */
export const sung = (): Song => {
  const song = withTakes(smallSong(), 'Lead', 2)
  const lead = layerOf(song, 'Lead')
  const first = pickTake(song, { layerId: lead, takeId: song.takes[0].id, ...lineRange(0), makeId })
  return { ...pickTake(first, { layerId: lead, takeId: song.takes[1].id, ...lineRange(1), makeId }), beat: { ...first.beat, frames: 20 * 48_000 } }
}
/** Nothing is done to any voice, and nothing goes into a space. */
export const bare = (song: Song): Song => ({
  ...song,
  vocalBus: { ...song.vocalBus, recipe: EMPTY_RECIPE },
  buses: song.buses.map(bus => ({ ...bus, recipe: EMPTY_RECIPE })),
  layers: song.layers.map(layer => ({ ...layer, recipe: EMPTY_RECIPE, sends: [] })),
})
export async function offline(plan: MixPlan, range?: { startFrame: number; endFrame: number }, from: AssetStore = store): Promise<Planar> {
  const pieces: Planar[] = []
  await renderOffline({ plan, store: from, sink: planes => void pieces.push(planes), range })
  return joinPlanes(pieces)
}
