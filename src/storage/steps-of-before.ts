/** Up to version 3 of the database a step held the whole song before and after it; since then it holds what it changed. */
import type { Transaction } from 'dexie'
import { findChange } from '../core/song/change'
import { assetsOfStep, MAXIMUM_STEPS, type Step } from '../core/song/history'
import { openSong } from '../core/song/open'
import { SONG_VERSION, type SongId } from '../core/song/schema'
import type { StepRow } from './database'

interface OldStepRow {
  songId: SongId
  label: string
  before: unknown
  after: unknown
}

/** Steps of songs from an older release are migrated with them. Where one cannot be read, that song's history is let go; the song is not. */
export async function turnStepsIntoChanges(transaction: Transaction): Promise<void> {
  const songs = transaction.table<{ id: SongId; doneSteps?: number; position?: number }, SongId>('songs')
  const history = transaction.table<StepRow>('history')
  for (const songId of await songs.toCollection().primaryKeys()) {
    const old = await transaction.table<OldStepRow>('steps').where('songId').equals(songId).toArray()
    const steps = readOldSteps(old)
    const rows = (steps ?? []).map((step): StepRow => ({ ...step, songId, version: SONG_VERSION, assetIds: assetsOfStep(step) }))
    const row = await songs.get(songId)
    const { doneSteps, ...kept } = row!
    await songs.put({ ...kept, position: steps ? (doneSteps ?? 0) : 0 })
    await history.bulkPut(rows)
  }
}

/** Null if any of them cannot be read. Ids run from 1. */
function readOldSteps(old: readonly OldStepRow[]): Step[] | null {
  const steps: Step[] = []
  for (const { label, before, after } of old.slice(0, MAXIMUM_STEPS)) {
    const [from, to] = [openSong(before), openSong(after)]
    if (from.kind !== 'current' || to.kind !== 'current') return null
    // A step that changed nothing still counts, so that the number of those done stays right.
    steps.push({ id: steps.length + 1, label, change: findChange(from.song, to.song) ?? { kind: 'fields', fields: {} } })
  }
  return steps
}
