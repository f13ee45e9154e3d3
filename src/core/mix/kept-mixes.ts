/** Mixes under names: what is kept of one, and how the song takes it on again. */
import { produce } from 'immer'
import { MOST_MIXES, type LayerMix, type MixId, type MixValues } from '../song/kept-mix-schema'
import type { Layer, Song } from '../song/schema'

function layerMixOf({ gainDecibels, ride, pan, panRide, distance, muted, recipe, sends, throws, colours }: LayerMix): LayerMix {
  return { gainDecibels, ride, pan, panRide, distance, muted, recipe, sends, throws, colours }
}

/** All that is mixed; solos are no part of a mix. */
export function mixValuesOf(song: Song): MixValues {
  const { gainDecibels, pan, muted, room } = song.beat
  return {
    beat: { gainDecibels, pan, muted, room },
    layers: song.layers.map(layer => ({ layerId: layer.id, ...layerMixOf(layer) })),
    buses: song.buses,
    vocalBus: song.vocalBus,
    spaces: song.spaces,
    stage: song.stage,
    output: song.output,
  }
}

/** The song mixed so. A layer that came later keeps its own values, but for ways into spaces that are not there. */
export function withMixValues(song: Song, { beat, layers, ...values }: MixValues): Song {
  const spaceIds = new Set(values.spaces.map(space => space.id))
  const mixed = (layer: Layer): Layer => {
    const own = layers.find(({ layerId }) => layerId === layer.id)
    if (own) return { ...layer, ...layerMixOf(own) }
    return {
      ...layer,
      sends: layer.sends.filter(({ spaceId }) => spaceIds.has(spaceId)),
      throws: layer.throws.filter(({ spaceId }) => spaceIds.has(spaceId)),
    }
  }
  const gone = song.buses.filter(({ role }) => !values.buses.some(bus => bus.role === role))
  return { ...song, ...values, buses: [...values.buses, ...gone], beat: { ...song.beat, ...beat }, layers: song.layers.map(mixed) }
}

/** Command: the mix as it is now, under a name. @throws RangeError if there are as many as can be. */
export function keepMix(song: Song, { name, makeId }: { name: string; makeId: () => string }): Song {
  if (song.mixes.length >= MOST_MIXES) throw new RangeError(`a song keeps at most ${MOST_MIXES} mixes`)
  return { ...song, mixes: [...song.mixes, { id: makeId() as MixId, name: name.trim().slice(0, 120) || 'Mix', values: mixValuesOf(song) }] }
}

/** Command: the song is mixed as it was when a mix was kept. What it was before is kept as well, if a name for it is given and there is room. */
export function takeMix(song: Song, { mixId, keepAs, makeId }: { mixId: MixId; keepAs?: string; makeId: () => string }): Song {
  const mix = requireMix(song, mixId)
  const kept = keepAs !== undefined && song.mixes.length < MOST_MIXES ? keepMix(song, { name: keepAs, makeId }) : song
  return withMixValues(kept, mix.values)
}

/** Command: a kept mix has another name. */
export function nameMix(song: Song, { mixId, name }: { mixId: MixId; name: string }): Song {
  requireMix(song, mixId)
  return produce(song, draft => {
    const mix = draft.mixes.find(({ id }) => id === mixId)!
    mix.name = name.trim().slice(0, 120) || mix.name
  })
}

/** Command: a kept mix goes. */
export function removeMix(song: Song, { mixId }: { mixId: MixId }): Song {
  return song.mixes.some(({ id }) => id === mixId) ? { ...song, mixes: song.mixes.filter(({ id }) => id !== mixId) } : song
}

function requireMix(song: Song, mixId: MixId) {
  const mix = song.mixes.find(({ id }) => id === mixId)
  if (!mix) throw new RangeError(`no mix ${mixId} in this song`)
  return mix
}
