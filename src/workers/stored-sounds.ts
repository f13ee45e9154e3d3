/** What jobs render from: stored sound, with the prints that a song needs made first. */
import type { ReadSound } from '../core/align/layer-sound'
import { findPath } from '../core/align/find-path'
import { notePaths, unledLines, type LedLine } from '../core/align/led-paths'
import { assetsOfSpans, missingInSpans } from '../core/mix/missing-sound'
import type { AssetStore } from '../core/mix/render-offline'
import type { Span } from '../core/mix/spans'
import { keyOfJob, type PrintTable } from '../core/prints/jobs'
import { planPrints } from '../core/prints/plan-prints'
import { heardOf, unheardTakes } from '../core/edits/heard-of'
import type { AssetId, Song, TakeId } from '../core/song/schema'
import { noteHeard } from '../core/song/takes'
import type { Heard } from '../core/song/tidy-schema'
import type { LedPath } from '../core/song/together-schema'
import { findMissingSound, makeAssetStore, readStretch } from '../storage/sounds'
import type { MissingResult } from './contract'
import { ensurePrint } from './ensure-print'
import { hearVoice } from './hear-stored'

/**
 * A song with all that it needs to sound as it says: what was found in the takes that are tidied or tuned, and every print; without those
 * whose sound is not stored. @throws Error if there is no room for one.
 */
export async function prepared(asked: Song, onProgress: (fraction: number) => void = () => {}): Promise<{ song: Song; prints: PrintTable }> {
  const song = await followed(await listenedTo(asked))
  const jobs = planPrints(song)
  const made = new Map<string, AssetId>()
  for (const [i, job] of jobs.entries()) {
    const result = await ensurePrint(job)
    if (result.kind === 'storage-full') throw new Error('there is no room on the disk for the sounds that have to be made first')
    if (result.kind === 'made') made.set(keyOfJob(job), result.assetId)
    onProgress((i + 1) / jobs.length)
  }
  return { song, prints: made }
}

async function listenedTo(song: Song): Promise<Song> {
  const heard = new Map<TakeId, Heard>()
  for (const take of unheardTakes(song)) {
    if ((await findMissingSound([take.assetId])).length === 0) heard.set(take.id, heardOf(await hearVoice(take.assetId, () => {}), take))
  }
  return heard.size > 0 ? noteHeard(song, { heard }) : song
}

async function followed(song: Song): Promise<Song> {
  const lines = unledLines(song)
  if (lines.length === 0) return song
  const found = await pathsOfLines(song, lines)
  return notePaths(
    song,
    lines.map((line, i) => ({ line, places: found[i]! })),
  )
}

/** What is stored of a song's takes; sound that is not stored is silence. */
export async function readStored(song: Song): Promise<ReadSound> {
  const missing = new Set((await findMissingSound([...new Set(song.takes.map(take => take.assetId))])).map(({ assetId }) => assetId))
  return (assetId, from, to) => (missing.has(assetId) ? Promise.resolve([new Float32Array(to - from)]) : readStretch(assetId, from, to))
}

export async function pathsOfLines(song: Song, lines: readonly LedLine[], onProgress: (fraction: number) => void = () => {}): Promise<LedPath['places'][]> {
  const read = await readStored(song)
  const found: LedPath['places'][] = []
  for (const [i, line] of lines.entries()) {
    found.push(await findPath(song, line, read))
    onProgress((i + 1) / lines.length)
  }
  return found
}

/** The store that some spans are read from; first it is looked whether all of their sound is there. */
export async function storeFor(spans: readonly Span[], withoutMissing: boolean): Promise<{ missing: MissingResult | null; store: AssetStore }> {
  const missing = withoutMissing ? [] : missingInSpans(spans, await findMissingSound(assetsOfSpans(spans)))
  return { missing: missing.length > 0 ? { kind: 'missing-sound', missing } : null, store: makeAssetStore(withoutMissing ? () => {} : undefined) }
}
