/** What a friend added to a copy of a song comes in beside one's own; nothing is overwritten. */
import { produce } from 'immer'
import type { Comp, CompId, Layer, PickId, Song, Take, TakeId } from '../song/schema'
import { ensureBus } from './commands'

export interface Merged {
  song: Song
  takes: number
  /** By name. */
  layers: string[]
  comps: number
  notes: number
}

/** The takes of theirs that one's own song does not have; what they put in the bin stays there. */
export function addedTakes(ours: Pick<Song, 'takes'>, theirs: Pick<Song, 'takes'>): Take[] {
  const known = new Set(ours.takes.map(take => take.id))
  return theirs.takes.filter(take => !known.has(take.id) && !take.binned)
}

/**
 * Command: new takes with their layers, comps that play one of them, parts for layers that have none, notes on takes that have none, lines to be sung
 * again, stretches put aside. Words, levels, recipes and every comp that one has stay as they are.
 * @param theirs A song that began as a copy of ours: ids are the same where it is the same. Its new takes name sounds that are stored here.
 */
export function mergeSong(ours: Song, theirs: Song, { makeId }: { makeId: () => string }): Merged {
  const fresh = addedTakes(ours, theirs)
  const freshIds = new Set<TakeId>(fresh.map(take => take.id))
  const known = new Set<TakeId>([...ours.takes.map(take => take.id), ...freshIds])
  const names = new Set(ours.takes.map(take => take.name))
  const told: Omit<Merged, 'song'> = { takes: fresh.length, layers: [], comps: 0, notes: 0 }
  const song = produce(ours, draft => {
    draft.takes.push(...fresh.map(take => (names.has(take.name) ? { ...take, name: added(take.name) } : take)))
    for (const layer of theirs.layers) {
      const own = draft.layers.find(({ id }) => id === layer.id)
      if (!own) {
        if (!holdsAnything(layer, fresh)) continue
        draft.layers.push(asTheirs(layer, ours, known))
        ensureBus(draft, layer.role, theirs.buses)
        told.layers.push(layer.name)
        continue
      }
      for (const comp of layer.comps) {
        const isOwn = own.comps.some(({ id }) => id === comp.id)
        if (!comp.picks.some(pick => freshIds.has(pick.takeId))) continue
        own.comps.push(freshComp(comp, known, isOwn, makeId))
        told.comps++
      }
      if (own.part.length === 0 && layer.part.length > 0) own.part = layer.part
      const again = layer.singAgain.filter(({ lineId }) => !own.singAgain.some(mark => mark.lineId === lineId))
      own.singAgain.push(...again)
      told.notes += again.length
    }
    for (const take of draft.takes) {
      const note = theirs.takes.find(({ id }) => id === take.id)?.note ?? ''
      if (freshIds.has(take.id) || take.note !== '' || note === '') continue
      take.note = note
      told.notes++
    }
    const spares = theirs.spares.filter(spare => known.has(spare.takeId) && !draft.spares.some(({ id }) => id === spare.id))
    draft.spares.push(...spares)
  })
  return { song, ...told }
}

function added(name: string): string {
  return `${name.slice(0, 110)} (added)`
}

function holdsAnything(layer: Layer, fresh: readonly Take[]): boolean {
  return layer.part.length > 0 || layer.comps.some(comp => comp.picks.length > 0) || fresh.some(take => take.layerId === layer.id)
}

/** As it is there, but for ways into spaces that are not here. */
function asTheirs(layer: Layer, { spaces }: Song, known: ReadonlySet<TakeId>): Layer {
  const here = new Set(spaces.map(space => space.id))
  return {
    ...layer,
    sends: layer.sends.filter(({ spaceId }) => here.has(spaceId)),
    throws: layer.throws.filter(({ spaceId }) => here.has(spaceId)),
    comps: layer.comps.map(comp => ({ ...comp, picks: picksOf(comp, known) })),
  }
}

/** A comp that both have is theirs under another name, beside one's own. */
function freshComp(comp: Comp, known: ReadonlySet<TakeId>, isOwn: boolean, makeId: () => string): Comp {
  const picks = picksOf(comp, known).map(pick => ({ ...pick, id: makeId() as PickId }))
  return { ...comp, id: isOwn ? (makeId() as CompId) : comp.id, name: isOwn ? added(comp.name) : comp.name, locked: false, picks }
}

function picksOf(comp: Comp, known: ReadonlySet<TakeId>): Comp['picks'] {
  return comp.picks.filter(pick => known.has(pick.takeId))
}
