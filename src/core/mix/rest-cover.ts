/** Whether the beat covers what a voice's rests hold: where it does not, silence between the phrases is heard as a hole. */
import { powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { quantile } from '../audio/statistics'
import { filtered, highPass } from '../effects/biquad'
import type { LayerId, Song } from '../song/schema'
import { requireLayer, type FrameRange } from '../song/select'
import type { View } from './heard'
import { planMix } from './plan'
import { joinPlanes, renderOffline, type AssetStore } from './render-offline'

/** As they are mixed, above 1 kHz, where hiss is heard and a bass covers nothing; -Infinity for silence. */
export interface RestCover {
  /** What the take holds in the rest, as it would be heard if the rest were left. */
  noiseDbfs: number
  /** The beat in its softer moments there. */
  beatDbfs: number
}

const HISS_FROM_HZ = 1_000
const WINDOW_FRAMES = 0.05 * SAMPLE_RATE_HZ
/** A hit now and then covers nothing: the beat is what it is for three quarters of the time. */
const SOFT_SHARE = 0.25
/** A longer rest says no more. */
const MOST_FRAMES = 4 * SAMPLE_RATE_HZ

/** @param rest In frames of the song. Nothing is printed for it: nobody sings there. */
export async function coverOfRest(song: Song, { layerId, rest, store }: { layerId: LayerId; rest: FrameRange; store: AssetStore }): Promise<RestCover> {
  const range = { startFrame: rest.startFrame, endFrame: Math.min(rest.endFrame, rest.startFrame + MOST_FRAMES) }
  const render = async (heard: Song, view: View) => {
    const pieces: Planar[] = []
    await renderOffline({ plan: planMix(heard, view), store, sink: planes => void pieces.push(planes), range })
    return windowPowers(joinPlanes(pieces))
  }
  const voice = await render(withRestsLeft(song, layerId), { kind: 'only', beat: false, layerIds: [layerId] })
  const beat = await render(song, { kind: 'only', beat: true, layerIds: [] })
  return { noiseDbfs: powerToDecibels(quantile(voice, 0.5)), beatDbfs: powerToDecibels(quantile(beat, SOFT_SHARE)) }
}

function withRestsLeft(song: Song, layerId: LayerId): Song {
  const { tidy } = requireLayer(song, layerId)
  if (!tidy) return song
  return { ...song, layers: song.layers.map(layer => (layer.id === layerId ? { ...layer, tidy: { ...tidy, restDecibels: 0 } } : layer)) }
}

function windowPowers(planes: Planar): Float32Array {
  const bands = planes.map((plane): Mono => filtered(plane, highPass(HISS_FROM_HZ), highPass(HISS_FROM_HZ)))
  const powers = new Float32Array(Math.max(1, Math.floor(planes[0].length / WINDOW_FRAMES)))
  for (let w = 0; w < powers.length; w++) {
    const [from, to] = [w * WINDOW_FRAMES, Math.min(planes[0].length, (w + 1) * WINDOW_FRAMES)]
    let sum = 0
    for (const band of bands) for (let i = from; i < to; i++) sum += band[i] * band[i]
    powers[w] = sum / (bands.length * Math.max(1, to - from))
  }
  return powers
}

/** So far under the beat, noise is covered. */
const COVERED_DECIBELS = 14
/** Softer noise is heard by nobody. */
const INAUDIBLE_DBFS = -78
/** A dip makes noise softer, and leaves no hole: nearer to the beat, less is taken. */
const DIP_DECIBELS = { least: -6, most: -12 }

/** By how much a rest is better lowered than silenced; null where silence is not heard. */
export function dipFor({ noiseDbfs, beatDbfs }: RestCover): number | null {
  if (noiseDbfs < INAUDIBLE_DBFS || noiseDbfs <= beatDbfs - COVERED_DECIBELS) return null
  const wanted = beatDbfs - COVERED_DECIBELS - noiseDbfs
  return Math.round(Math.max(DIP_DECIBELS.most, Math.min(DIP_DECIBELS.least, wanted)))
}
