/** What a mix loses on one loudspeaker: by role, and which voices take each other away. */
import { powerToDecibels } from '../audio/decibels'
import type { Mono, Planar } from '../audio/frames'
import type { PrintTable } from '../prints/jobs'
import type { LayerId, Role, Song } from '../song/schema'
import { currentComp, overlapFrames, type FrameRange } from '../song/select'
import { madePhrases } from '../prints/made-voices'
import { planMix } from './plan'
import { joinPlanes, renderOffline, type AssetStore } from './render-offline'

export interface MonoCheck {
  /** In the order of the layers, all voices last. A voice in the middle loses nothing; one that is all on one side, 3 dB. */
  roles: { role: Role | 'voices'; lossDecibels: number }[]
  /** Pairs that are softer together in mono than apart; the worst first. */
  cancelling: { layerIds: [LayerId, LayerId]; lossDecibels: number }[]
}

/** Two voices that have nothing to do with each other add up to no less than this. */
const CANCELS_DECIBELS = -1.5
const LEAST_POWER = 1e-10
/** Nothing is left: further down is not told apart. */
const GONE_DECIBELS = -60

/** @param range In frames of the song; as mixed, with what spaces answer. */
export async function checkMono(
  song: Song,
  range: FrameRange,
  { store, prints, onProgress }: { store: AssetStore; prints: PrintTable; onProgress?: (fraction: number) => void },
): Promise<MonoCheck> {
  const isAnySoloed = song.beat.soloed || song.layers.some(layer => layer.soloed)
  const playing = song.layers.filter(layer => {
    const plays =
      currentComp(layer).picks.some(pick => overlapFrames(pick, range) > 0) || madePhrases(song, layer).some(phrase => overlapFrames(phrase, range) > 0)
    return plays && !layer.muted && (!isAnySoloed || layer.soloed)
  })
  const whole = planMix({ ...song, beat: { ...song.beat, muted: true, soloed: false } }, { kind: 'song' }, prints)
  const sounds: Planar[] = []
  for (const [i, { id }] of playing.entries()) {
    const pieces: Planar[] = []
    await renderOffline({ plan: { ...whole, stem: [id] }, store, sink: planes => void pieces.push(planes), range })
    sounds.push(joinPlanes(pieces))
    onProgress?.((i + 1) / playing.length)
  }
  const roles = [...new Set(playing.map(layer => layer.role))].map(role => ({
    role,
    lossDecibels: lossOf(sumOf(sounds.filter((_, i) => playing[i].role === role))),
  }))
  const middles = sounds.map(middleOf)
  const cancelling = playing.flatMap((layer, i) =>
    playing.slice(i + 1).flatMap((other, k): MonoCheck['cancelling'] => {
      const [a, b] = [middles[i], middles[i + 1 + k]]
      const apart = powerOf(a) + powerOf(b)
      const lossDecibels = apart < LEAST_POWER ? 0 : decibelsOf(powerOf(sumOf([[a], [b]])[0]) / apart)
      return lossDecibels < CANCELS_DECIBELS ? [{ layerIds: [layer.id, other.id], lossDecibels }] : []
    }),
  )
  return {
    roles: playing.length > 0 ? [...roles, { role: 'voices', lossDecibels: lossOf(sumOf(sounds)) }] : [],
    cancelling: cancelling.sort((a, b) => a.lossDecibels - b.lossDecibels),
  }
}

/** 0 dB for a sound that is the same on both sides. */
function lossOf(planes: Planar): number {
  const both = powerOf(planes[0]) + powerOf(planes[1])
  return both < LEAST_POWER ? 0 : decibelsOf((2 * powerOf(middleOf(planes))) / both)
}

function decibelsOf(ratio: number): number {
  return Math.max(GONE_DECIBELS, powerToDecibels(ratio))
}

function middleOf(planes: Planar): Mono {
  return planes[0].map((value, i) => 0.5 * (value + planes[1][i]))
}

function sumOf(sounds: readonly Planar[]): Planar {
  return sounds[0].map((_, side) => {
    const sum = new Float32Array(sounds[0][side].length)
    for (const planes of sounds) for (let i = 0; i < sum.length; i++) sum[i] += planes[side][i]
    return sum
  })
}

function powerOf(sound: Mono): number {
  let sum = 0
  for (const value of sound) sum += value * value
  return sum / Math.max(1, sound.length)
}
