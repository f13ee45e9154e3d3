/** Recordings in progress, and those that a closed tab left behind. */
import { CHUNK_FRAMES } from '../core/mix/chunk-window'
import type { CapturePlacement, PassMarks } from '../core/song/recording'
import type { AssetId, SongId } from '../core/song/schema'
import { database, type RecordingRow } from './database'

export async function beginRecording(row: RecordingRow): Promise<void> {
  await database.recordings.add(row)
}

export async function placeRecording(id: AssetId, placement: CapturePlacement): Promise<void> {
  await database.recordings.update(id, { placement })
}

/** The singer said something of a pass while the loop went on. */
export async function markPasses(id: AssetId, marks: PassMarks): Promise<void> {
  await database.recordings.update(id, { marks })
}

/** The capture has become takes, or was given up. */
export async function endRecording(id: AssetId): Promise<void> {
  await database.recordings.delete(id)
}

/** Recordings of a song that never ended, with how much of each is stored. */
export async function leftRecordings(songId: SongId): Promise<{ row: RecordingRow; frames: number }[]> {
  const rows = await database.recordings.where('songId').equals(songId).toArray()
  return Promise.all(
    rows.map(async row => ({
      row: { ...row, marks: listsOf(row.marks) },
      frames: CHUNK_FRAMES * (await database.chunks.where('assetId').equals(row.id).count()),
    })),
  )
}

/** Earlier releases kept one mark a pass, not a list. */
function listsOf(marks: PassMarks = {}): PassMarks {
  return Object.fromEntries(Object.entries(marks).map(([pass, said]) => [pass, [said].flat()]))
}
