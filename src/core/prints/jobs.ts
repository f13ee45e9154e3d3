/** Sound made from sound: what is to be made, and what it is called. */
import xxhash from 'xxhash-wasm'
import type { TreatmentOptions } from '../beat/treatments'
import type { Mend } from '../edits/tidy'
import type { ToneNote } from '../made/make-tone'
import type { NoteEdit, TimeEdit } from '../song/edit-schema'
import type { PlacedPartNote } from '../song/part-schema'
import type { AssetId } from '../song/schema'
import type { SungNote } from '../voice/notes'
import type { Tuning } from './laid-over'

/** A stretch of an asset; the print is as long, and unless it is a voice of its own it is the asset to the bit at both ends. */
interface Stretch {
  assetId: AssetId
  startFrame: number
  endFrame: number
}

export type PrintJob =
  /** A stretch of the beat with another colour. */
  | (Stretch & { kind: 'treated'; treatment: TreatmentOptions })
  /** A stretch of a take with clicks and pops mended, its notes tuned or moved, and its time moved. Frames of the asset. */
  | (Stretch & {
      kind: 'mended'
      notes: readonly Omit<NoteEdit, 'id' | 'rungCents'>[]
      times: readonly Omit<TimeEdit, 'id'>[]
      redrawn: readonly Mend[]
      tuning: Tuning | null
    })
  /** A stretch of the lead drawn to the notes of a part, by a singer that a seed names. Frames and seconds of the asset. */
  | (Stretch & { kind: 'made'; notes: readonly PlacedPartNote[]; sung: readonly SungNote[]; throatSemitones: number; seed: number })
  /** A part as a tone; made from nothing of the asset, which is the song's beat. Its stretch is one of the song, its notes are frames of that stretch. */
  | (Stretch & { kind: 'tone'; notes: readonly ToneNote[]; tuningCents: number })

/** Changes whenever the same job would sound otherwise. */
const VERSIONS: Record<PrintJob['kind'], number> = { treated: 2, mended: 3, made: 1, tone: 1 }

/** Prints that are made, by the keys of their jobs. */
export type PrintTable = ReadonlyMap<string, AssetId>
export const NO_PRINTS: PrintTable = new Map()

const knownKeys = new WeakMap<PrintJob, string>()

/** Equal for equal jobs on one asset. */
export function keyOfJob(job: PrintJob): string {
  const key = knownKeys.get(job) ?? `${job.assetId}:${settingsOf(job)}`
  knownKeys.set(job, key)
  return key
}

/** What the print is stored as: equal wherever the same job is done to the same sound. @param contentHash Of the asset. */
export async function printIdOf(job: PrintJob, contentHash: string): Promise<AssetId> {
  const { h64ToString } = await xxhash()
  return `${PRINT_PREFIX}${h64ToString(`${contentHash}:${settingsOf(job)}`).padStart(16, '0')}` as AssetId
}

const PRINT_PREFIX = 'print-'
export function isPrint(assetId: AssetId): boolean {
  return assetId.startsWith(PRINT_PREFIX)
}

function settingsOf(job: PrintJob): string {
  return JSON.stringify([job.kind, VERSIONS[job.kind], job.startFrame, job.endFrame, ...ownSettings(job)])
}

function ownSettings(job: PrintJob): unknown[] {
  switch (job.kind) {
    case 'treated':
      return [job.treatment.kind, job.treatment.amount, job.treatment.fadeFrames]
    case 'made':
      return [
        job.notes.map(({ startFrame, endFrame, midi }) => [startFrame, endFrame, midi]),
        job.sung.map(note => Object.entries(note).sort()),
        job.throatSemitones,
        job.seed,
      ]
    case 'tone':
      return [job.notes.map(({ startFrame, endFrame, midi }) => [startFrame, endFrame, midi]), job.tuningCents]
    case 'mended':
      return [
        job.notes.map(({ startFrame, endFrame, shiftCents }) => [startFrame, endFrame, shiftCents]),
        job.times.map(({ frame, laterFrames }) => [frame, laterFrames]),
        job.redrawn.map(({ kind, startFrame, endFrame, decibels, tone }) => [
          kind,
          startFrame,
          endFrame,
          decibels,
          ...(tone ? [tone.startFrame, tone.endFrame] : []),
        ]),
        job.tuning && [Object.entries(job.tuning.settings).sort(), job.tuning.notes.map(note => Object.entries(note).sort())],
      ]
  }
}
