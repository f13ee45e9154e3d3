/** Parts of a song by their names, as they are typed. */
import type { Song } from '../song/schema'
import { planGuides, planStems, type Part } from './parts'

const NAMED: Record<string, (song: Song) => Part[]> = {
  mix: () => [{ kind: 'mix' }],
  vocals: () => [{ kind: 'vocals' }],
  'vocals-dry': () => [{ kind: 'vocals', dry: true }],
  beat: () => [{ kind: 'beat' }],
  stems: song => [{ kind: 'beat' }, ...planStems(song, 'layer')],
  roles: song => planStems(song, 'role'),
  layers: song => planStems(song, 'layer'),
  'layers-dry': song => planStems(song, 'layer', { dry: true }),
  'layers-bare': song => planStems(song, 'layer', { bare: true }),
  click: () => [{ kind: 'click' }],
  guides: planGuides,
}

export const PART_NAMES = Object.keys(NAMED)

export type NamedParts = { ok: true; parts: Part[] } | { ok: false; why: string }

/** @param name One of those above, a role, or what a layer or a space is called; letters of either case. */
export function partsNamed(song: Song, name: string): NamedParts {
  const asked = name.trim().toLowerCase()
  const named = Object.hasOwn(NAMED, asked) ? NAMED[asked](song) : null
  if (named) return { ok: true, parts: named }
  const role = song.layers.find(layer => layer.role === asked)?.role
  if (role) return { ok: true, parts: [{ kind: 'role', role }] }
  const layers = song.layers.filter(layer => layer.id === name || layer.name.toLowerCase() === asked)
  if (layers.length === 1) return { ok: true, parts: [{ kind: 'layer', layerId: layers[0].id }] }
  if (layers.length > 1) return { ok: false, why: `several layers are called "${name}": use an id (${layers.map(({ id }) => id).join(', ')})` }
  const space = song.spaces.find(({ id, name: called }) => id === name || called.toLowerCase() === asked)
  if (space) return { ok: true, parts: [{ kind: 'space', spaceId: space.id }] }
  const roles = new Set(song.layers.map(layer => layer.role))
  const choices = [...PART_NAMES, ...roles, ...song.layers.map(layer => layer.name), ...song.spaces.map(entry => entry.name)]
  return { ok: false, why: `there is no "${name}": one of ${choices.join(', ')}` }
}
