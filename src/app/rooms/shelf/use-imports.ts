/** Making songs from dropped files: one at a time, with progress, and nothing half-made left behind. */
import { useState } from 'react'
import type { PlainBeat } from '../../../core/beat/plain-beat'
import { titleFromFileName } from '../../../core/files/names'
import { makeSong } from '../../../core/song/make-song'
import type { AssetId, Song, SongId } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { addSong, destroySong, findTwin } from '../../../storage/songs'
import { discardAsset } from '../../../storage/sounds'
import type { ImportBeatResult, ImportSongResult, JobResult } from '../../../workers/contract'
import { runJob } from '../../../workers/run-job'
import { queryClient } from '../../query-client'
import { noteFirstSong } from '../../song/first-song'
import { listeningTo } from '../../song/listening'
import { readPeaksOf } from '../../song/sounds'
import { beatArrives, nothingArrives, partArrived } from './arriving'

export type ImportProblem =
  | Exclude<ImportBeatResult, { kind: 'imported' }>
  | Exclude<ImportSongResult, { kind: 'imported' }>
  | { kind: 'failed'; detail: string }
  | { kind: 'no-demo' }
  | { kind: 'server-silent' }
  | { kind: 'no-file' }
  /** The song came in, and the same sounds are on the Shelf already. */
  | { kind: 'twin'; arrival: Arrival; twin: NonNullable<Awaited<ReturnType<typeof findTwin>>> }

export interface ImportState {
  fileName: string
  /** Null while it runs. */
  problem: ImportProblem | null
  cancel: () => void
}

export interface Arrival {
  songId: SongId
  /** How many channels the file had, if they were mixed down to two. */
  mixedDownFrom: number | null
  /** How many of its samples were no numbers, for which silence stands. */
  silencedSamples: number
}

export interface Imports {
  state: ImportState | null
  busy: boolean
  importFile: (file: File, acceptCutShort?: boolean) => Promise<Arrival | null>
  importDemo: () => Promise<Arrival | null>
  /** A song over a click or a drone. */
  beginWithout: (beat: PlainBeat) => Promise<Arrival | null>
  /** Something was dropped that is no file, such as text or a picture of a page. */
  refuseDrop: () => void
  /** Takes the part that is there of the file that was refused as cut short. */
  acceptCutShort: () => Promise<Arrival | null>
  dismiss: () => void
  /** Of a song that is here twice now: the one that just came in goes again. */
  dropTwin: () => Promise<void>
}

export function useImports(): Imports {
  const [state, setState] = useState<ImportState | null>(null)
  const [refused, setRefused] = useState<File | null>(null)
  const run = async (fileName: string, work: (signal: AbortSignal) => Promise<Arrival | ImportProblem | null>) => {
    const abort = new AbortController()
    const running: ImportState = { fileName, problem: null, cancel: () => abort.abort() }
    setState(running)
    const outcome = await work(abort.signal)
    nothingArrives()
    const problem = outcome !== null && !('songId' in outcome) ? outcome : null
    setState(problem ? { ...running, problem } : null)
    return outcome !== null && 'songId' in outcome ? outcome : null
  }
  const importFile = (file: File, acceptCutShort = false) => {
    setRefused(file)
    return run(file.name, async signal => ((await isZip(file)) ? importSongFile(file, signal) : importBeatFile(file, acceptCutShort, signal)))
  }
  const importDemo = () =>
    run('Slow Ferry', async signal => {
      const response = await fetch('/demo/slow-ferry.zip', { signal }).catch(() => null)
      if (response && !response.ok) return { kind: 'no-demo' }
      const file = await response?.blob().catch(() => null)
      if (!file) return signal.aborted ? null : { kind: 'server-silent' }
      return importSongFile(file, signal)
    })
  const beginWithout = (beat: PlainBeat) =>
    run('A song without a beat', async signal => {
      const { plainFile, withPlainFacts } = await import('./plain-song')
      return importBeatFile(plainFile(beat), false, signal, song => withPlainFacts(song, beat))
    })
  return {
    state,
    busy: state !== null && state.problem === null,
    importFile,
    importDemo,
    beginWithout,
    refuseDrop: () => setState({ fileName: 'What was dropped', problem: { kind: 'no-file' }, cancel: () => {} }),
    acceptCutShort: () => (refused ? importFile(refused, true) : Promise.resolve(null)),
    dismiss: () => setState(null),
    dropTwin: async () => {
      if (state?.problem?.kind === 'twin') await destroySong(state.problem.arrival.songId)
      setState(null)
    },
  }
}

/** By its first bytes, whatever it is called; a damaged one may still be called so. */
async function isZip(file: File): Promise<boolean> {
  const [a, b] = new Uint8Array(await file.slice(0, 2).arrayBuffer())
  return (a === 0x50 && b === 0x4b) || /\.zip$/i.test(file.name)
}

/** @param known What of the song is known before anything is heard. */
async function importBeatFile(
  file: File,
  acceptCutShort: boolean,
  signal: AbortSignal,
  known: (song: Song) => Song = song => song,
): Promise<Arrival | ImportProblem | null> {
  const assetId = makeId() as AssetId
  beatArrives()
  const result = await runJob('importBeat', { file, assetId, acceptCutShort }, { onProgress: partArrived, signal })
  if (result.kind !== 'done' || result.value.kind !== 'imported') await discardAsset(assetId)
  if (result.kind !== 'done') return unfinished(result)
  if (result.value.kind !== 'imported') return result.value
  const bare = makeSong({
    songId: makeId() as SongId,
    title: titleFromFileName(file.name),
    assetId,
    fileName: file.name,
    frames: result.value.sound.frames,
    fileSays: result.value.fileSays,
    makeId,
  })
  const song = known(bare)
  await Promise.all([addSong(song, new Date().toISOString()), readPeaksOf(assetId)])
  void queryClient.prefetchQuery(listeningTo(assetId))
  void noteFirstSong(song.id)
  return { songId: song.id, mixedDownFrom: result.value.sound.mixedDownFrom, silencedSamples: result.value.sound.silencedSamples }
}

/** Or a backup of several. */
async function importSongFile(file: Blob, signal: AbortSignal): Promise<Arrival | ImportProblem | null> {
  const result = await runJob('importSong', { file }, { onProgress: partArrived, signal })
  if (result.kind !== 'done') return unfinished(result)
  if (result.value.kind !== 'imported') return result.value
  const arrival: Arrival = { songId: result.value.songId, mixedDownFrom: null, silencedSamples: 0 }
  const twin = await findTwin(arrival.songId)
  return twin ? { kind: 'twin', arrival, twin } : arrival
}

function unfinished(result: Exclude<JobResult<unknown>, { kind: 'done' }>): ImportProblem | null {
  return result.kind === 'cancelled' ? null : { kind: 'failed', detail: result.detail }
}
