/** Commands on levels, places, the recipe and the space. */
import { produce } from 'immer'
import type { Beat, Layer, LayerId, Recipe, Song, Space } from '../song/schema'
import { clampGain } from '../song/levels'
import { requireLayer } from '../song/select'

export type StripSettings = Partial<Record<'gainDecibels' | 'pan', number> & Record<'muted' | 'soloed', boolean>>

/** Command: a layer's level, place, send, mute or solo. */
export function setLayerMix(song: Song, { layerId, ...settings }: { layerId: LayerId } & StripSettings & Partial<{ sendDecibels: number }>): Song {
  return produce(song, draft => {
    Object.assign(requireLayer(draft, layerId), withinRange(settings) satisfies Partial<Layer>)
  })
}

/** Command: the beat's level, place, mute or solo. */
export function setBeatMix(song: Song, settings: StripSettings): Song {
  return produce(song, draft => {
    Object.assign(draft.beat, withinRange(settings) satisfies Partial<Beat>)
  })
}

/** Command: a role bus's level. */
export function setBusGain(song: Song, { role, gainDecibels }: { role: Layer['role']; gainDecibels: number }): Song {
  return produce(song, draft => {
    for (const bus of draft.buses) if (bus.role === role) bus.gainDecibels = clampGain(gainDecibels)
  })
}

/** Command: the vocal bus's level or recipe. */
export function setVocalBus(song: Song, settings: Partial<{ gainDecibels: number; recipe: Recipe }>): Song {
  return produce(song, draft => {
    Object.assign(draft.vocalBus, withinRange(settings))
  })
}

/** Command: the space's settings. */
export function setSpace(song: Song, settings: Partial<Space>): Song {
  return produce(song, draft => {
    Object.assign(draft.space, settings)
  })
}

/** Levels and places as near as a song can keep them. */
function withinRange<S extends { gainDecibels?: number; sendDecibels?: number; pan?: number }>(settings: S): S {
  const { gainDecibels, sendDecibels, pan } = settings
  return {
    ...settings,
    ...(gainDecibels === undefined ? {} : { gainDecibels: clampGain(gainDecibels) }),
    ...(sendDecibels === undefined ? {} : { sendDecibels: clampGain(sendDecibels) }),
    ...(pan === undefined ? {} : { pan: Math.max(-1, Math.min(1, pan)) }),
  }
}
