/** Sound made from sound: what is to be made, and what it is called. */
import xxhash from 'xxhash-wasm'
import type { TreatmentOptions } from '../beat/treatments'
import type { Mend } from '../edits/tidy'
import type { NoteEdit, TimeEdit } from '../song/edit-schema'
import type { AssetId } from '../song/schema'
import type { Tuning } from './laid-over'

/** A stretch of an asset; the print is as long, and at both ends it is the asset to the bit. */
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

/** Changes whenever the same job would sound otherwise. */
const VERSIONS: Record<PrintJob['kind'], number> = { treated: 1, mended: 3 }

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
  const settings =
    job.kind === 'treated'
      ? [job.treatment.kind, job.treatment.amount, job.treatment.fadeFrames]
      : [
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
  return JSON.stringify([job.kind, VERSIONS[job.kind], job.startFrame, job.endFrame, ...settings])
}
