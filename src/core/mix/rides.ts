/** Rides: what of a layer they move, and the commands on them. */
import { produce } from 'immer'
import { GAIN_RANGE_DECIBELS } from '../song/fields'
import { clampGain, clampPan } from '../song/levels'
import type { LanePoint, SpaceId } from '../song/mix-schema'
import type { Layer, LayerId, Song } from '../song/schema'
import { requireLayer } from '../song/select'

/** A layer's level, to which its ride is added; or its place or what it sends into a space, for which a ride stands that has points. */
export type Ridden = { kind: 'level' } | { kind: 'place' } | { kind: 'send'; spaceId: SpaceId }
export interface RidePlace {
  layerId: LayerId
  of: Ridden
}

/** In time order; none: it is not ridden. */
export function rideOf(layer: Layer, of: Ridden): readonly LanePoint[] {
  switch (of.kind) {
    case 'level':
      return layer.ride
    case 'place':
      return layer.panRide
    case 'send':
      return layer.sends.find(send => send.spaceId === of.spaceId)?.ride ?? []
  }
}

/** What it is without a ride: where a first point begins. */
export function unriddenValue(layer: Layer, of: Ridden): number {
  switch (of.kind) {
    case 'level':
      return 0
    case 'place':
      return layer.pan
    case 'send':
      return layer.sends.find(send => send.spaceId === of.spaceId)?.gainDecibels ?? GAIN_RANGE_DECIBELS.min
  }
}

/** Command: a point of a ride, in the place of one that lies at the same frame. @throws RangeError if the song has no such space. */
export function setRidePoint(song: Song, { frame, value, ...place }: RidePlace & LanePoint): Song {
  const point = { frame: Math.round(frame), value: clampRidden(place.of, value) }
  return changeRide(song, place, ride => [...ride.filter(other => other.frame !== point.frame), point].sort((a, b) => a.frame - b.frame))
}

/** Command: a ride as a whole, in the place of what was there; points on one frame: the last of them. @throws RangeError if the song has no such space. */
export function setRide(song: Song, { points, ...place }: RidePlace & { points: readonly LanePoint[] }): Song {
  const byFrame = new Map(points.map(({ frame, value }) => [Math.round(frame), clampRidden(place.of, value)]))
  return changeRide(song, place, () => [...byFrame].map(([frame, value]) => ({ frame, value })).sort((a, b) => a.frame - b.frame))
}

/** Command: a point moves; it stays between its neighbours. */
export function moveRidePoint(song: Song, { from, frame, value, ...place }: RidePlace & { from: number } & LanePoint): Song {
  const ride = rideOf(requireLayer(song, place.layerId), place.of)
  const at = ride.findIndex(point => point.frame === from)
  if (at < 0) return song
  const least = (ride[at - 1]?.frame ?? -Infinity) + 1
  const most = (ride[at + 1]?.frame ?? Infinity) - 1
  const point = { frame: Math.max(least, Math.min(most, Math.round(frame))), value: clampRidden(place.of, value) }
  if (point.frame === ride[at].frame && point.value === ride[at].value) return song
  return changeRide(song, place, points => points.map((other, i) => (i === at ? point : other)))
}

/** Command: points go. */
export function removeRidePoints(song: Song, { frames, ...place }: RidePlace & { frames: readonly number[] }): Song {
  return changeRide(song, place, ride => ride.filter(point => !frames.includes(point.frame)))
}

function clampRidden(of: Ridden, value: number): number {
  return of.kind === 'place' ? clampPan(value) : clampGain(value)
}

function changeRide(song: Song, { layerId, of }: RidePlace, change: (ride: readonly LanePoint[]) => LanePoint[]): Song {
  const layer = requireLayer(song, layerId)
  const ride = change(rideOf(layer, of))
  if (of.kind === 'send' && !song.spaces.some(space => space.id === of.spaceId)) throw new RangeError(`no space ${of.spaceId} in this song`)
  return produce(song, draft => {
    const drafted = requireLayer(draft, layerId)
    if (of.kind === 'level') drafted.ride = ride
    else if (of.kind === 'place') drafted.panRide = ride
    else {
      const send = drafted.sends.find(entry => entry.spaceId === of.spaceId)
      if (send) send.ride = ride
      else drafted.sends.push({ spaceId: of.spaceId, gainDecibels: unriddenValue(layer, of), ride })
    }
  })
}
