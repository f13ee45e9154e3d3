/** Spaces: what they are in the plan, and the commands on them and on what is sent into them. */
import { produce } from 'immer'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { beatAtFrame, frameOfBeat, framesPerBeat, type Grid } from '../beat/grid'
import { usualSettings } from '../effects/catalogue'
import { DELAY_RANGE_SECONDS, Echo, type EchoSettings } from '../effects/echo'
import { Press, type PressSettings } from '../effects/press'
import { Hall, Plate, Room, type ReverbSettings } from '../effects/reverb'
import type { Space as SpaceEffect } from '../effects/space'
import { clampGain } from '../song/levels'
import { DUCK_RANGES, ECHO_BEATS_RANGE, MOST_SPACES, type Space, type SpaceId } from '../song/mix-schema'
import { feedsItself } from '../song/references'
import type { LayerId, Role, Song } from '../song/schema'
import { requireLayer } from '../song/select'
import { FREE } from '../song/usual-mix'
import { laneOf, NO_LANE, type Lane } from './lane'
import { withinRanges } from './recipes'

export type SpaceKind = Space['kind']
/** As the renderer takes it: an echo's time is in seconds. */
export type SpaceSettings = ({ kind: 'plate' | 'room' | 'hall' } & ReverbSettings) | ({ kind: 'echo' } & EchoSettings) | ({ kind: 'press' } & PressSettings)

export function settingsOfSpace(space: Space, grid: Grid): SpaceSettings {
  if (space.kind === 'press') {
    const { kind, thresholdDecibels, ratio, attackSeconds, releaseSeconds, makeupDecibels, kneeDecibels } = space
    return { kind, thresholdDecibels, ratio, attackSeconds, releaseSeconds, makeupDecibels, kneeDecibels }
  }
  if (space.kind !== 'echo') {
    const { kind, decaySeconds, preDelaySeconds, dampingHz, lowCutHz, widthFraction, sizeFraction } = space
    return { kind, decaySeconds, preDelaySeconds, dampingHz, lowCutHz, widthFraction, sizeFraction }
  }
  const { kind, feedbackFraction, highCutHz, lowCutHz, crossFraction, wornFraction } = space
  return { kind, delaySeconds: echoSeconds(space, grid), feedbackFraction, highCutHz, lowCutHz, crossFraction, wornFraction }
}

/**
 * How late an echo comes along a song whose tempo drifts: what is sung on a beat comes back on one. A step at every beat; none where the tempo is
 * steady or the echo has a time of its own. Seconds.
 */
export function echoDelays(space: Space, grid: Grid, endFrame: number): Lane {
  if (space.kind !== 'echo' || space.delayBeats === null || !grid.map) return NO_LANE
  // As many halves as the mean needs, so that it is one echo throughout.
  const beats = space.delayBeats * (echoSeconds(space, grid) / ((space.delayBeats * framesPerBeat(grid)) / SAMPLE_RATE_HZ))
  const points: { frame: number; value: number }[] = []
  for (let beat = Math.floor(beatAtFrame(grid, 0)); frameOfBeat(grid, beat) < endFrame; beat++) {
    const frame = Math.round(frameOfBeat(grid, beat))
    const seconds = (frame - frameOfBeat(grid, beat - beats)) / SAMPLE_RATE_HZ
    points.push({ frame, value: Math.max(DELAY_RANGE_SECONDS.min, Math.min(DELAY_RANGE_SECONDS.max, seconds)) })
  }
  return laneOf(points)
}

/** How late an echo comes: by its beats at the song's mean tempo, halved until it is short enough. */
export function echoSeconds({ delayBeats, delaySeconds }: Extract<Space, { kind: 'echo' }>, grid: Grid): number {
  if (delayBeats === null) return delaySeconds
  let seconds = (delayBeats * framesPerBeat(grid)) / SAMPLE_RATE_HZ
  while (seconds > DELAY_RANGE_SECONDS.max) seconds /= 2
  return Math.max(DELAY_RANGE_SECONDS.min, seconds)
}

export function makeSpace(settings: SpaceSettings): SpaceEffect<SpaceSettings> {
  switch (settings.kind) {
    case 'plate':
      return new Plate(settings) as SpaceEffect<SpaceSettings>
    case 'room':
      return new Room(settings) as SpaceEffect<SpaceSettings>
    case 'hall':
      return new Hall(settings) as SpaceEffect<SpaceSettings>
    case 'press':
      return new Press(settings) as SpaceEffect<SpaceSettings>
    case 'echo':
      return new Echo(settings) as SpaceEffect<SpaceSettings>
  }
}

/** Command: one more space, at its usual settings; nothing is sent into it yet. @throws RangeError if there are as many as can be. */
export function addSpace(song: Song, { kind, name, makeId }: { kind: SpaceKind; name: string; makeId: () => string }): Song {
  if (song.spaces.length >= MOST_SPACES) throw new RangeError(`a song has at most ${MOST_SPACES} spaces`)
  return produce(song, draft => {
    const beats = kind === 'echo' ? { delayBeats: 1 } : {}
    draft.spaces.push({ id: makeId() as SpaceId, kind, name: name.slice(0, 120), ...FREE, ...usualSettings(kind), ...beats } as Space)
  })
}

/**
 * Command: a space's name, level or settings, each as near as its range allows; or what it feeds.
 * @throws RangeError if it would feed itself, by whatever way, or a space that is not there.
 */
export function setSpace(
  song: Song,
  {
    spaceId,
    name,
    gainDecibels,
    delayBeats,
    feeds,
    settings = {},
  }: {
    spaceId: SpaceId
    name?: string
    gainDecibels?: number
    delayBeats?: number | null
    feeds?: Space['feeds']
    settings?: Record<string, number>
  },
): Song {
  if (feeds && !song.spaces.some(space => space.id === feeds.spaceId)) throw new RangeError(`no space ${feeds.spaceId} in this song`)
  if (feeds && !mayFeed(song, spaceId, feeds.spaceId)) throw new RangeError('a space that feeds itself would never be still')
  return produce(song, draft => {
    const space = draft.spaces.find(entry => entry.id === spaceId)
    if (!space) throw new RangeError(`no space ${spaceId} in this song`)
    if (name !== undefined) space.name = name.trim().slice(0, 120) || space.name
    if (gainDecibels !== undefined) space.gainDecibels = clampGain(gainDecibels)
    if (space.kind === 'echo' && delayBeats !== undefined)
      space.delayBeats = delayBeats === null ? null : Math.max(ECHO_BEATS_RANGE.min, Math.min(ECHO_BEATS_RANGE.max, delayBeats))
    if (feeds !== undefined) space.feeds = feeds && { ...feeds, gainDecibels: clampGain(feeds.gainDecibels) }
    for (const [name, { min, max }] of Object.entries(DUCK_RANGES) as [keyof typeof DUCK_RANGES, { min: number; max: number }][])
      if (Number.isFinite(settings[name])) space[name] = Math.max(min, Math.min(max, settings[name]))
    Object.assign(space, withinRanges(space.kind, settings))
  })
}

/** Whether what one space answers may go into another: it must not come back. */
export function mayFeed({ spaces }: Song, from: SpaceId, to: SpaceId): boolean {
  const fed = spaces.map(space => (space.id === from ? { id: space.id, feeds: { spaceId: to } } : space))
  return !feedsItself(fed, from)
}

/** Command: a space goes, and with it what was sent or thrown into it. */
export function removeSpace(song: Song, { spaceId }: { spaceId: SpaceId }): Song {
  if (!song.spaces.some(space => space.id === spaceId)) return song
  return produce(song, draft => {
    draft.spaces = draft.spaces.filter(space => space.id !== spaceId)
    for (const space of draft.spaces) if (space.feeds?.spaceId === spaceId) space.feeds = null
    for (const layer of draft.layers) {
      layer.sends = layer.sends.filter(send => send.spaceId !== spaceId)
      layer.throws = layer.throws.filter(thrown => thrown.spaceId !== spaceId)
    }
  })
}

/** Command: how loud a layer goes into a space. @throws RangeError if the song has no such space. */
export function setSend(song: Song, { layerId, spaceId, gainDecibels }: { layerId: LayerId; spaceId: SpaceId; gainDecibels: number }): Song {
  if (!song.spaces.some(space => space.id === spaceId)) throw new RangeError(`no space ${spaceId} in this song`)
  return produce(song, draft => {
    const { sends } = requireLayer(draft, layerId)
    const send = sends.find(entry => entry.spaceId === spaceId)
    if (send) send.gainDecibels = clampGain(gainDecibels)
    else sends.push({ spaceId, gainDecibels: clampGain(gainDecibels), ride: [] })
  })
}

/** Command: how loud each layer of a role goes into a space. @throws RangeError if the song has no such space. */
export function setSendOfRole(song: Song, { role, ...send }: { role: Role; spaceId: SpaceId; gainDecibels: number }): Song {
  return song.layers.filter(layer => layer.role === role).reduce((now, { id }) => setSend(now, { layerId: id, ...send }), song)
}
