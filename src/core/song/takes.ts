/** Commands on takes: recording adds them, the bin holds them. */
import { produce } from 'immer'
import type { LayerId, Song, Take, TakeId, TakeLevel } from './schema'
import { requireTake } from './select'

/** What is not known or said yet of a take that has just come to be. */
export const UNMARKED = { level: null, flaws: [], note: '', starred: false, spare: false, binned: false, printOf: null } satisfies Partial<Take>

/** Command: takes just recorded. They are no step of undo; the bin undoes them. */
export function addTakes(song: Song, { takes }: { takes: Take[] }): Song {
  return produce(song, draft => {
    draft.takes.push(...takes)
  })
}

/** Command: a take's name, note, star, or that it is put aside. */
export function describeTake(song: Song, { takeId, name, note, starred, spare }: { takeId: TakeId; name?: string; note?: string; starred?: boolean; spare?: boolean }): Song {
  return produce(song, draft => {
    const take = requireTake(draft, takeId)
    if (name !== undefined) take.name = name.trim().slice(0, 120) || take.name
    if (note !== undefined) take.note = note.trim().slice(0, 500)
    if (starred !== undefined) take.starred = starred
    if (spare !== undefined) take.spare = spare
  })
}

/** Command: how loud takes were sung, once they were listened to. */
export function noteLevels(song: Song, { levels }: { levels: ReadonlyMap<TakeId, TakeLevel> }): Song {
  return produce(song, draft => {
    for (const take of draft.takes) take.level = levels.get(take.id) ?? take.level
  })
}

/** Command: takes whose round trip was only estimated go where the one now known puts them. Picks stay; what they play moves with its take. */
export function placeAgain(song: Song, { takeIds, roundTripFrames, source, measuredAt }: { takeIds: readonly TakeId[]; roundTripFrames: number; source: Take['roundTripSource']; measuredAt: string | null }): Song {
  return produce(song, draft => {
    for (const id of takeIds) {
      const take = requireTake(draft, id)
      const laterFrames = take.roundTripFrames - roundTripFrames
      take.originFrame += laterFrames
      take.startFrame += laterFrames
      take.endFrame += laterFrames
      for (const flaw of take.flaws) {
        flaw.startFrame += laterFrames
        flaw.endFrame += laterFrames
      }
      Object.assign(take, { roundTripFrames, roundTripSource: source, roundTripMeasuredAt: measuredAt })
    }
  })
}

/** Which layers and stretches play this take, in any of their comps; `compName` is null for the current one. */
export function usesOfTake(song: Song, takeId: TakeId): { layerId: LayerId; compName: string | null; startFrame: number; endFrame: number }[] {
  return song.layers.flatMap(layer =>
    layer.comps.flatMap(comp =>
      comp.picks.filter(pick => pick.takeId === takeId).map(pick => ({ layerId: layer.id, compName: comp.id === layer.currentCompId ? null : comp.name, startFrame: pick.startFrame, endFrame: pick.endFrame })),
    ),
  )
}

/** Command: a take goes to the bin; picks of it go with it. Its sound is kept. */
export function binTake(song: Song, { takeId }: { takeId: TakeId }): Song {
  return produce(song, draft => {
    requireTake(draft, takeId).binned = true
    for (const layer of draft.layers) for (const comp of layer.comps) comp.picks = comp.picks.filter(pick => pick.takeId !== takeId)
  })
}

/** Command: a take comes back from the bin, to its own layer or, if that is gone, to the one named. */
export function restoreTake(song: Song, { takeId, layerId }: { takeId: TakeId; layerId: LayerId }): Song {
  return produce(song, draft => {
    const take = requireTake(draft, takeId)
    take.binned = false
    if (!draft.layers.some(layer => layer.id === take.layerId)) take.layerId = layerId
  })
}
