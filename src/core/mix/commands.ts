/** Commands on levels and places. */
import { produce } from 'immer'
import { BEAT_ROOM_RANGES, type BeatRoom } from '../song/beat-room'
import type { Beat, Layer, LayerId, Song } from '../song/schema'
import { ensureBus } from '../layers/commands'
import { clampGain, clampPan } from '../song/levels'
import { requireLayer } from '../song/select'

export type StripSettings = Partial<Record<'gainDecibels' | 'pan', number> & Record<'muted' | 'soloed', boolean>>

/** Command: a layer's level, place, mute or solo. */
export function setLayerMix(song: Song, { layerId, ...settings }: { layerId: LayerId } & StripSettings): Song {
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

/** Command: how far the beat gives way to the voices, each value as near as its range allows. */
export function setBeatRoom(song: Song, settings: Partial<BeatRoom>): Song {
  return produce(song, draft => {
    for (const [name, { min, max }] of Object.entries(BEAT_ROOM_RANGES) as [keyof BeatRoom, { min: number; max: number }][]) {
      const value = settings[name]
      if (value !== undefined && Number.isFinite(value)) draft.beat.room[name] = Math.max(min, Math.min(max, value))
    }
  })
}

/** Command: a role bus's level. */
export function setBusGain(song: Song, { role, gainDecibels }: { role: Layer['role']; gainDecibels: number }): Song {
  return produce(song, draft => {
    ensureBus(draft, role).gainDecibels = clampGain(gainDecibels)
  })
}

/** Command: the level of all voices together. */
export function setVocalGain(song: Song, { gainDecibels }: { gainDecibels: number }): Song {
  return produce(song, draft => {
    draft.vocalBus.gainDecibels = clampGain(gainDecibels)
  })
}

/** Levels and places as near as a song can keep them. */
function withinRange<S extends { gainDecibels?: number; pan?: number }>(settings: S): S {
  const { gainDecibels, pan } = settings
  return {
    ...settings,
    ...(gainDecibels === undefined ? {} : { gainDecibels: clampGain(gainDecibels) }),
    ...(pan === undefined ? {} : { pan: clampPan(pan) }),
  }
}
