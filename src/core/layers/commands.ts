/** Commands on layers. */
import { produce } from 'immer'
import type { CompId, Layer, LayerId, Role, Song } from '../song/schema'
import { requireLayer } from '../song/select'
import { EMPTY_RECIPE, PLATE_ID } from '../song/usual-mix'
import { BUS_NAMES, ROLE_PLACEMENT, ROLE_RECIPES } from './roles'

/** Command: one more layer at the end. */
export function addLayer(song: Song, { name, role, makeId }: { name: string; role: Role; makeId: () => string }): Song {
  return produce(song, draft => {
    draft.layers.push(makeLayer(song, { name: name.trim().slice(0, 120) || BUS_NAMES[role], role, pan: ROLE_PLACEMENT[role].pan, makeId }))
    ensureBus(draft, role)
  })
}

/** Command: a layer's name, role or tint. In another role it wears that role's tint, unless it wore another than its own, and goes through its bus. */
export function describeLayer(song: Song, { layerId, name, role, tint }: { layerId: LayerId; name?: string; role?: Role; tint?: Role }): Song {
  return produce(song, draft => {
    const layer = requireLayer(draft, layerId)
    if (name !== undefined) layer.name = name.trim().slice(0, 120) || layer.name
    if (role !== undefined && role !== layer.role) {
      if (layer.tint === layer.role) layer.tint = role
      layer.role = role
      ensureBus(draft, role)
    }
    if (tint !== undefined) layer.tint = tint
  })
}

/** Command: a layer moves by so many places; at the ends it stays. */
export function moveLayer(song: Song, { layerId, by }: { layerId: LayerId; by: number }): Song {
  const from = song.layers.findIndex(layer => layer.id === layerId)
  const to = Math.max(0, Math.min(song.layers.length - 1, from + by))
  if (from < 0 || from === to) return song
  return produce(song, draft => {
    draft.layers.splice(to, 0, ...draft.layers.splice(from, 1))
  })
}

/** Whether nothing was sung, picked, written, kept aside or marked on a layer, by anyone's hand. */
export function isLayerEmpty(song: Song, layerId: LayerId): boolean {
  const { comps, singAgain, part, wanted } = requireLayer(song, layerId)
  const marks = [...singAgain, ...part, ...wanted].length
  return comps.length === 1 && comps[0].picks.length === 0 && marks === 0 && !song.takes.some(take => take.layerId === layerId)
}

/** What would go with a layer. */
export interface LayerLosses {
  /** Of its own, not in the bin yet. */
  takes: number
  picks: number
  /** Its comps beside the current one. */
  otherComps: number
  /** Of what it is to sing. */
  partNotes: number
  /** Layers whose picks play its takes, by name. */
  playedBy: string[]
  /** Locked comps, of any layer, that play its takes, by name. */
  lockedComps: string[]
}

export function lossesOfLayer(song: Song, layerId: LayerId): LayerLosses {
  const layer = requireLayer(song, layerId)
  const own = new Set(song.takes.filter(take => take.layerId === layerId && !take.binned).map(take => take.id))
  const others = song.layers.filter(other => other.id !== layerId)
  const plays = (comp: Layer['comps'][number]) => comp.picks.some(pick => own.has(pick.takeId))
  return {
    takes: own.size,
    picks: layer.comps.reduce((sum, comp) => sum + comp.picks.length, 0),
    otherComps: layer.comps.length - 1,
    partNotes: layer.part.length,
    playedBy: others.filter(other => other.comps.some(plays)).map(other => other.name),
    lockedComps: others.flatMap(other => other.comps.filter(comp => comp.locked && plays(comp)).map(comp => `${comp.name} of ${other.name}`)),
  }
}

/**
 * Command: a layer goes; its takes go to the bin, and so do picks of them in other layers. Ask `lossesOfLayer` first.
 * @throws RangeError if a locked comp of another layer plays one.
 */
export function removeLayer(song: Song, { layerId }: { layerId: LayerId }): Song {
  const { lockedComps } = lossesOfLayer(song, layerId)
  if (lockedComps.length > 0) throw new RangeError(`layer ${layerId} is played by locked comps: ${lockedComps.join(', ')}`)
  return produce(song, draft => {
    draft.layers = draft.layers.filter(layer => layer.id !== layerId)
    const binned = new Set<string>()
    for (const take of draft.takes) {
      if (take.layerId !== layerId) continue
      take.binned = true
      binned.add(take.id)
    }
    for (const layer of draft.layers) for (const comp of layer.comps) comp.picks = comp.picks.filter(pick => !binned.has(pick.takeId))
  })
}

/** A layer without takes, placed as its role is; into the plate it is sent only if the song still has one. */
export function makeLayer(
  { spaces }: Pick<Song, 'spaces'>,
  { name, role, pan, makeId }: { name: string; role: Role; pan: number; makeId: () => string },
): Layer {
  const compId = makeId() as CompId
  const { gainDecibels, sendDecibels } = ROLE_PLACEMENT[role]
  return {
    id: makeId() as LayerId,
    name,
    role,
    tint: role,
    gainDecibels,
    pan,
    muted: false,
    soloed: false,
    ride: [],
    panRide: [],
    distance: 0,
    tidy: null,
    tune: null,
    together: null,
    paths: [],
    part: [],
    made: null,
    recipe: EMPTY_RECIPE,
    sends: spaces.filter(space => space.id === PLATE_ID).map(({ id }) => ({ spaceId: id, gainDecibels: sendDecibels, ride: [] })),
    comps: [{ id: compId, name: 'Comp 1', locked: false, picks: [] }],
    currentCompId: compId,
    throws: [],
    colours: [],
    wanted: [],
    sings: [],
    singAgain: [],
  }
}

/** A draft's bus of a role; as `known` has it, or as the role is usually treated, if there is none. */
export function ensureBus(song: Song, role: Role, known: Song['buses'] = []): Song['buses'][number] {
  const found = song.buses.find(bus => bus.role === role)
  if (found) return found
  song.buses.push(known.find(bus => bus.role === role) ?? usualBus(role))
  return song.buses[song.buses.length - 1]
}

export function usualBus(role: Role): Song['buses'][number] {
  return { role, name: BUS_NAMES[role], gainDecibels: 0, recipe: { ...EMPTY_RECIPE, steps: ROLE_RECIPES[role].map(step => ({ ...step })) } }
}
