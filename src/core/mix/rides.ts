/** Commands on a layer's ride. */
import { produce } from 'immer'
import { clampGain } from '../song/levels'
import type { RidePoint } from '../song/mix-schema'
import type { LayerId, Song } from '../song/schema'
import { requireLayer } from '../song/select'

/** Command: a point of a layer's ride, in the place of one that lies at the same frame. */
export function setRidePoint(song: Song, { layerId, frame, gainDecibels }: { layerId: LayerId } & RidePoint): Song {
  return produce(song, draft => {
    const layer = requireLayer(draft, layerId)
    const point = { frame: Math.round(frame), gainDecibels: clampGain(gainDecibels) }
    layer.ride = [...layer.ride.filter(other => other.frame !== point.frame), point].sort((a, b) => a.frame - b.frame)
  })
}

/** Command: a point moves; it stays between its neighbours. */
export function moveRidePoint(song: Song, { layerId, from, frame, gainDecibels }: { layerId: LayerId; from: number } & RidePoint): Song {
  const { ride } = requireLayer(song, layerId)
  const at = ride.findIndex(point => point.frame === from)
  if (at < 0) return song
  const least = (ride[at - 1]?.frame ?? -Infinity) + 1
  const most = (ride[at + 1]?.frame ?? Infinity) - 1
  const point = { frame: Math.max(least, Math.min(most, Math.round(frame))), gainDecibels: clampGain(gainDecibels) }
  if (point.frame === ride[at].frame && point.gainDecibels === ride[at].gainDecibels) return song
  return produce(song, draft => {
    requireLayer(draft, layerId).ride[at] = point
  })
}

/** Command: a point goes; or all of them. */
export function removeRidePoints(song: Song, { layerId, frames }: { layerId: LayerId; frames: readonly number[] }): Song {
  return produce(song, draft => {
    const layer = requireLayer(draft, layerId)
    layer.ride = layer.ride.filter(point => !frames.includes(point.frame))
  })
}
