/** Commands on takes: recording adds them, the bin holds them. */
import { produce } from 'immer'
import { NO_EDITS } from './edit-schema'
import { clampLevel, clampNudge } from './levels'
import type { AssetId, LayerId, Song, Take, TakeId, TakeLevel } from './schema'
import { binnedTakes, requireTake } from './select'
import type { Heard } from './tidy-schema'

/** A new take: these fields must be given, all others have a usual value. */
export type TakeFacts = Pick<Take, 'id' | 'layerId' | 'assetId' | 'originFrame' | 'startFrame' | 'endFrame' | 'recordedAt' | 'pass'> & Partial<Take>

/** A take that has just come to be: named by its pass, not moved, not listened to and without marks unless it is said otherwise. */
export function makeTake(facts: TakeFacts): Take {
  const { pass, name } = facts
  return {
    roundTripFrames: 0,
    roundTripSource: 'none',
    roundTripMeasuredAt: null,
    inputName: '',
    level: null,
    flaws: [],
    note: '',
    starred: false,
    spare: false,
    binned: false,
    edits: NO_EDITS,
    heard: null,
    bounceOf: null,
    ...facts,
    name: (name ?? '').trim().slice(0, 120) || `Pass ${pass}`,
  }
}

/** Whether anything is laid over its sound. */
export function hasEdits({ edits }: Take): boolean {
  return edits.gains.length + edits.notes.length + edits.times.length + edits.mends.length > 0
}

/** The number of a layer's next pass, from 1. */
export function nextPass(song: Song, layerId: LayerId): number {
  return song.takes.filter(take => take.layerId === layerId).length + 1
}

/** Command: takes just recorded. They are no step of undo; the bin undoes them. */
export function addTakes(song: Song, { takes }: { takes: Take[] }): Song {
  return produce(song, draft => {
    draft.takes.push(...takes)
  })
}

/** Command: a take's name, note, star, or that it is put aside. */
export function describeTake(
  song: Song,
  { takeId, name, note, starred, spare }: { takeId: TakeId; name?: string; note?: string; starred?: boolean; spare?: boolean },
): Song {
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
    for (const take of draft.takes) {
      const level = levels.get(take.id)
      if (level)
        take.level = {
          peakDbfs: clampLevel(level.peakDbfs),
          voiceDbfs: clampLevel(level.voiceDbfs),
          noiseDbfs: clampLevel(level.noiseDbfs),
          tiltDecibels: clampLevel(level.tiltDecibels),
        }
    }
  })
}

/** Command: what was found in takes, once they were listened to. What is known already stays: by it they sound as they do. */
export function noteHeard(song: Song, { heard }: { heard: ReadonlyMap<TakeId, Heard> }): Song {
  return produce(song, draft => {
    for (const take of draft.takes) take.heard ??= heard.get(take.id) ?? null
  })
}

/** Command: moves takes whose round trip was only estimated to where the measured one puts them. Picks keep their place; the sound inside them moves. */
export function placeAgain(
  song: Song,
  {
    takeIds,
    roundTripFrames,
    source,
    measuredAt,
  }: { takeIds: readonly TakeId[]; roundTripFrames: number; source: Take['roundTripSource']; measuredAt: string | null },
): Song {
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
      // A bounce holds the take's sound where it lay when the bounce was made: relative to the new place, the bounce plays the take with a nudge back.
      for (const bounce of draft.takes) {
        for (const pick of bounce.bounceOf?.picks ?? []) if (pick.takeId === id) pick.nudgeFrames = clampNudge(pick.nudgeFrames - laterFrames)
      }
    }
  })
}

/** Which layers and stretches play this take, in any of their comps; `compName` is null for the current one. */
export function usesOfTake(song: Song, takeId: TakeId): { layerId: LayerId; compName: string | null; startFrame: number; endFrame: number }[] {
  return song.layers.flatMap(layer =>
    layer.comps.flatMap(comp =>
      comp.picks
        .filter(pick => pick.takeId === takeId)
        .map(pick => ({
          layerId: layer.id,
          compName: comp.id === layer.currentCompId ? null : comp.name,
          startFrame: pick.startFrame,
          endFrame: pick.endFrame,
        })),
    ),
  )
}

export type BinCheck = { ok: true } | { ok: false; reason: 'locked'; compNames: string[] }

/** Whether a take may go to the bin: a locked comp that plays it is not changed. */
export function checkBin(song: Song, takeId: TakeId): BinCheck {
  const compNames = song.layers.flatMap(layer =>
    layer.comps.filter(comp => comp.locked && comp.picks.some(pick => pick.takeId === takeId)).map(comp => `${comp.name} of ${layer.name}`),
  )
  return compNames.length > 0 ? { ok: false, reason: 'locked', compNames } : { ok: true }
}

/** Command: a take goes to the bin; picks of it go with it. Its sound is kept. @throws RangeError if `checkBin` says no. */
export function binTake(song: Song, { takeId }: { takeId: TakeId }): Song {
  const check = checkBin(song, takeId)
  if (!check.ok) throw new RangeError(`take ${takeId} is played by locked comps: ${check.compNames.join(', ')}`)
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

/** Takes in the bin, which can go for good; not one that something plays all the same. */
export function erasableTakes(song: Song): Take[] {
  const played = new Set(song.layers.flatMap(layer => layer.comps.flatMap(comp => comp.picks.map(({ takeId }) => takeId))))
  return binnedTakes(song).filter(take => !played.has(take.id))
}

/** Command: the bin is emptied. The sound goes where nothing else names it: that is for whoever stores it. */
export function emptyBin(song: Song): Song {
  const gone = new Set(erasableTakes(song).map(take => take.id))
  if (gone.size === 0) return song
  return produce(song, draft => {
    draft.takes = draft.takes.filter(take => !gone.has(take.id))
    draft.spares = draft.spares.filter(spare => !gone.has(spare.takeId))
  })
}

/** The song without the takes of some sounds, and without what plays them: for a file that cannot hold them. */
export function withoutSounds(song: Song, assetIds: readonly AssetId[]): Song {
  const gone = new Set(song.takes.filter(take => assetIds.includes(take.assetId)).map(take => take.id))
  return produce(song, draft => {
    draft.takes = draft.takes.filter(take => !gone.has(take.id))
    draft.spares = draft.spares.filter(spare => !gone.has(spare.takeId))
    for (const layer of draft.layers) for (const comp of layer.comps) comp.picks = comp.picks.filter(pick => !gone.has(pick.takeId))
    draft.beat.treatments = draft.beat.treatments.filter(treatment => treatment.assetId === null || !assetIds.includes(treatment.assetId))
  })
}

/** The song without takes that no comp plays and nobody put aside or starred, and without the bin: for a file that is to be small. */
export function withoutUnused(song: Song): Song {
  const picks = song.layers.flatMap(layer => layer.comps.flatMap(comp => comp.picks))
  const wanted = new Set<TakeId>([...picks, ...song.spares].map(({ takeId }) => takeId))
  const takes = song.takes.filter(take => wanted.has(take.id) || (!take.binned && (take.starred || take.spare)))
  return takes.length < song.takes.length ? { ...song, takes } : song
}
