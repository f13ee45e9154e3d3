/** A template laid over a song. */
import { produce } from 'immer'
import { makeSong } from '../song/make-song'
import { MOST_SPACES } from '../song/mix-schema'
import { linesToSing } from '../song/planned-lines'
import type { AssetId, Layer, Song, SongId } from '../song/schema'
import { ensureBus, isLayerEmpty, makeLayer, usualBus } from './commands'
import { FULL_STACK } from './our-templates'
import type { Template, TemplateLayer } from './template-schema'

const MOST_LAYERS = 64

/**
 * Command: the layers of a template, named, placed and routed. Layers that hold anything stay as they are; empty ones make room. Spaces, roles, what all
 * voices go through, the stage and the levels of beat and output become the template's where they are still those of a new song.
 */
export function layTemplate(song: Song, { template = FULL_STACK, makeId }: { template?: Template; makeId: () => string }): Song {
  const kept = song.layers.filter(layer => !isLayerEmpty(song, layer.id))
  const base = withMixOf(song, kept, template)
  const names = new Set(kept.map(layer => layer.name))
  const fresh = template.layers.filter(entry => !names.has(entry.name)).map(entry => layerOf(base, entry, makeId))
  const place = (layer: Layer) => template.layers.findIndex(entry => entry.name === layer.name)
  const order = (layer: Layer) => (place(layer) < 0 ? template.layers.length : place(layer))
  return produce(base, draft => {
    draft.layers = [...kept, ...fresh].sort((a, b) => order(a) - order(b)).slice(0, Math.max(kept.length, MOST_LAYERS))
    for (const layer of draft.layers) ensureBus(draft, layer.role, template.buses)
  })
}

function withMixOf(song: Song, kept: readonly Layer[], template: Template): Song {
  const fresh = makeSong({ songId: 'song' as SongId, title: '', assetId: 'beat' as AssetId, fileName: '', frames: 1, makeId: () => 'id' })
  const untouched = <T>(now: T, before: T, wanted: T): T => (isSame(now, before) ? wanted : now)
  const roles = new Set(kept.map(layer => layer.role))
  const { gainDecibels, room } = song.beat
  const mixed: Song = {
    ...song,
    buses: song.buses.filter(bus => roles.has(bus.role) || !isSame(bus, usualBus(bus.role))),
    vocalBus: untouched(song.vocalBus, fresh.vocalBus, template.vocalBus),
    stage: untouched(song.stage, fresh.stage, template.stage),
    output: untouched(song.output, fresh.output, template.output),
    beat: {
      ...song.beat,
      gainDecibels: untouched(gainDecibels, fresh.beat.gainDecibels, template.beat.gainDecibels),
      room: untouched(room, fresh.beat.room, template.beat.room),
    },
  }
  return kept.length === 0 && isSame(song.spaces, fresh.spaces) ? { ...mixed, spaces: template.spaces } : withSpaces(mixed, template.spaces)
}

function isSame(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b)
}

/** What layers go into must be there, as far as there is room; one of the same id is the song's own. */
function withSpaces(song: Song, spaces: Song['spaces']): Song {
  const missing = spaces.filter(space => !song.spaces.some(({ id }) => id === space.id)).map(space => ({ ...space, feeds: null }))
  return missing.length > 0 ? { ...song, spaces: [...song.spaces, ...missing].slice(0, Math.max(song.spaces.length, MOST_SPACES)) } : song
}

function layerOf(song: Song, { sends, tune, together, sings, ...own }: TemplateLayer, makeId: () => string): Layer {
  const spaceIds = new Set(song.spaces.map(space => space.id))
  return {
    ...makeLayer(song, { ...own, makeId }),
    ...own,
    tune: tune && { ...tune, lines: [] },
    together: together && { ...together, apart: [] },
    sends: sends.filter(({ spaceId }) => spaceIds.has(spaceId)).map(send => ({ ...send, ride: [] })),
    wanted: linesToSing(song.sections, sings),
    sings,
  }
}
