/** The browser's database: songs, history, sound in chunks, peaks, analyses, recordings in progress. */
import Dexie, { type EntityTable, type Table } from 'dexie'
import type { Planar } from '../core/audio/frames'
import type { Peaks } from '../core/audio/peaks'
import type { WrittenEncoding } from '../core/files/wav'
import type { CapturePlacement, PassMarks } from '../core/song/recording'
import type { Step } from '../core/song/history'
import type { AssetId, LayerId, RoundTripSource, Song, SongId } from '../core/song/schema'

export interface SongRow {
  id: SongId
  /** Checked against the schema when the song is opened. */
  song: Song
  createdAt: string
  touchedAt: string
  /** When it was put in the bin; null while it stands on the Shelf. */
  binnedAt: string | null
  /** The id of its last step that is done; stored steps with higher ids are undone. */
  position: number
}

/** One step of a song's history. */
export interface StepRow extends Step {
  songId: SongId
  /** Of the song document that it fits. */
  version: number
  /** Sounds that only this step may still name. */
  assetIds: AssetId[]
}

/** A song as it was when it was last opened and found sound: to go back to if its row cannot be read. */
export interface SnapshotRow {
  songId: SongId
  song: Song
  position: number
  takenAt: string
}

export interface AssetRow {
  id: AssetId
  frames: number
  channels: number
  contentHash: string
  encoding: WrittenEncoding
  clippedRuns: number
}

/** Sound that is being captured, or was: each chunk a row of its own, durable by itself. */
export interface ChunkRow {
  assetId: AssetId
  index: number
  planes: Planar
}

/** Sound that came whole: many chunks in one Blob, which is written and read several times as fast. */
export interface PackRow {
  assetId: AssetId
  index: number
  channels: number
  /** Chunk after chunk, in each channel after channel, as floats. */
  sound: Blob
}

export interface PeaksRow {
  assetId: AssetId
  peaks: Peaks
}

export interface AnalysisRow {
  /** "hash:algorithm:version" */
  key: string
  value: unknown
}

/** A capture from its first chunk until it has become takes. */
export interface RecordingRow {
  /** The asset it becomes. */
  id: AssetId
  songId: SongId
  layerId: LayerId
  startedAt: string
  roundTripSource: RoundTripSource
  roundTripMeasuredAt?: string | null
  inputName?: string
  /** What was said of passes while they looped, by pass from 1. */
  marks?: PassMarks
  /** Known once the transport rolls. */
  placement: CapturePlacement | null
}

/** A print, and when it was last asked for, in milliseconds since 1970. */
export interface PrintRow {
  assetId: AssetId
  askedAt: number
}

/** How this browser is set up, by subject; checked by whoever reads it. */
export interface SettingRow {
  key: string
  value: unknown
}

/** A file that was delivered of a song; see `deliveries.ts`, which checks it. */
export interface DeliveryRow {
  id: string
  songId: string
  madeAt: string
  bytes: number
  file: Blob | null
}

/** A template of the singer's own; see `templates.ts`, which checks it. */
export interface TemplateRow {
  id: string
  template: unknown
}

/** A state of a song under a name; see `versions.ts`. */
export interface VersionRow {
  id: string
  songId: SongId
  name: string
  note: string
  keptAt: string
  /** Checked when it is read. */
  song: Song
}

class PlushDatabase extends Dexie {
  songs!: EntityTable<SongRow, 'id'>
  history!: Table<StepRow, [SongId, number]>
  snapshots!: EntityTable<SnapshotRow, 'songId'>
  assets!: EntityTable<AssetRow, 'id'>
  chunks!: Table<ChunkRow, [AssetId, number]>
  packs!: Table<PackRow, [AssetId, number]>
  peaks!: EntityTable<PeaksRow, 'assetId'>
  analyses!: EntityTable<AnalysisRow, 'key'>
  recordings!: EntityTable<RecordingRow, 'id'>
  settings!: EntityTable<SettingRow, 'key'>
  prints!: EntityTable<PrintRow, 'assetId'>
  deliveries!: EntityTable<DeliveryRow, 'id'>
  templates!: EntityTable<TemplateRow, 'id'>
  versions!: EntityTable<VersionRow, 'id'>

  constructor() {
    super('plush-layer')
    this.version(1).stores({
      songs: 'id, touchedAt',
      steps: '[songId+sequence], songId',
      assets: 'id',
      chunks: '[assetId+index], assetId',
      peaks: 'assetId',
      analyses: 'key',
      recordings: 'id, songId',
    })
    this.version(2).stores({ settings: 'key' })
    this.version(3).stores({ packs: '[assetId+index], assetId' })
    this.version(4)
      .stores({ history: '[songId+id], *assetIds', snapshots: 'songId' })
      // Workers open the database too: few of them ever need what an upgrade does.
      .upgrade(transaction => Dexie.waitFor(import('./steps-of-before')).then(({ turnStepsIntoChanges }) => turnStepsIntoChanges(transaction)))
    this.version(5).stores({ steps: null })
    this.version(6).stores({ prints: 'assetId, askedAt' })
    this.version(7).stores({ deliveries: 'id, [songId+madeAt]', templates: 'id', versions: 'id, [songId+keptAt]' })
  }
}

export const database = new PlushDatabase()

/** A new id for anything stored: 96 random bits. */
export function makeId(): string {
  return [...crypto.getRandomValues(new Uint8Array(12))].map(byte => byte.toString(16).padStart(2, '0')).join('')
}

/** Whether an error says that the disk is full. */
export function isQuotaError(error: unknown): boolean {
  const { name, inner } = error as { name?: string; inner?: { name?: string } }
  return name === 'QuotaExceededError' || inner?.name === 'QuotaExceededError'
}
