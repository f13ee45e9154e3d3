/** Rearranging and colouring the beat: a command, then what the workers find or render for it, as one step of undo. */
import type { TreatmentOptions } from '../../../core/beat/treatments'
import { framesPerBeat } from '../../../core/beat/grid'
import { addTreatment, barsFallenSilent, replaceBeatFile, shiftPieces, sourceRanges, type BarRange } from '../../../core/song/arrangement'
import type { AssetId, Song, Treatment } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { discardAsset } from '../../../storage/sounds'
import { runJob } from '../../../workers/run-job'
import { currentSong, edit } from '../../song/song-store'

/** The joins are made to run on before the step is taken. Without an answer they are crossfades all the same. */
export async function rearrange(label: string, command: (song: Song) => Song): Promise<void> {
  const arranged = command(currentSong())
  const result = await runJob('alignJoins', { beat: arranged.beat })
  edit(label, song => shiftPieces(command(song), { shifts: result.kind === 'done' ? result.value : [] }))
}

/** Renders a treatment of every stretch that sounds over some bars. */
export async function treatBars(
  label: string,
  range: BarRange,
  { kind, amount }: Pick<TreatmentOptions, 'kind' | 'amount'>,
  onProgress: (fraction: number) => void,
): Promise<boolean> {
  const { beat } = currentSong()
  const stretches = sourceRanges(currentSong(), range).map(({ sourceStartFrame, sourceEndFrame }) => ({
    sourceStartFrame: Math.max(0, sourceStartFrame),
    sourceEndFrame: Math.min(beat.sourceFrames, sourceEndFrame),
  }))
  const treatments: Treatment[] = []
  for (const [i, { sourceStartFrame, sourceEndFrame }] of stretches.entries()) {
    if (sourceEndFrame - sourceStartFrame < 2) continue
    const assetId = makeId() as AssetId
    const treatment = { kind, amount, fadeFrames: Math.round(framesPerBeat(beat.grid) / 4) }
    const result = await runJob(
      'treatBeat',
      { beatAssetId: beat.assetId, assetId, startFrame: sourceStartFrame, endFrame: sourceEndFrame, treatment },
      { onProgress: fraction => onProgress((i + fraction) / stretches.length) },
    )
    if (result.kind !== 'done') {
      await discardAsset(assetId)
      return false
    }
    treatments.push({ id: makeId(), kind, amount, sourceStartFrame, sourceEndFrame, assetId })
  }
  edit(label, song => treatments.reduce((current, treatment) => addTreatment(current, { treatment }), song))
  return true
}

export type ReplaceOutcome =
  | { kind: 'replaced'; offsetFrames: number; /** Bars that sounded before and are silent now. */ silentBars: BarRange[] }
  | { kind: 'other-tempo'; /** Null where only the drift tells. */ tempoBpm: number | null }
  | { kind: 'does-not-fit' }
  | { kind: 'cut-short'; file: File; foundSeconds: number }
  | { kind: 'not-read' }

/** A newer file of the same beat takes the old one's place, if it is the same beat at the same speed. */
export async function replaceBeat(file: File, onProgress: (fraction: number) => void, acceptCutShort = false): Promise<ReplaceOutcome> {
  const assetId = makeId() as AssetId
  const imported = await runJob('importBeat', { file, assetId, acceptCutShort }, { onProgress: fraction => onProgress(0.5 * fraction) })
  if (imported.kind !== 'done') return { kind: 'not-read' }
  if (imported.value.kind !== 'imported') {
    const { value } = imported
    return value.kind === 'refused' && value.reason === 'cut-short' ? { kind: 'cut-short', file, foundSeconds: value.foundSeconds } : { kind: 'not-read' }
  }
  const { sound } = imported.value
  const matched = await runJob('matchBeats', { before: currentSong().beat.assetId, after: assetId })
  if (matched.kind !== 'done' || matched.value.kind !== 'fits') {
    const outcome = matched.kind === 'done' ? await otherTempo(assetId, matched.value.kind === 'other-tempo') : ({ kind: 'not-read' } as const)
    await discardAsset(assetId)
    return outcome
  }
  const { offsetFrames } = matched.value
  const before = currentSong()
  edit(`use ${file.name} as the beat`, song => replaceBeatFile(song, { assetId, fileName: file.name, sourceFrames: sound.frames, offsetFrames }))
  return { kind: 'replaced', offsetFrames, silentBars: barsFallenSilent(before, currentSong()) }
}

/** A tempo that is further off than this share is another one. */
const SAME_TEMPO = 0.002

/** What is wrong with a file that does not lie over the beat: its speed, if that is heard to differ, or all of it. */
async function otherTempo(assetId: AssetId, drifts: boolean): Promise<ReplaceOutcome> {
  const { grid } = currentSong().beat
  const heard = await runJob('hearTempo', { assetId, wish: {} })
  const readings = heard.kind === 'done' ? heard.value.readings : []
  // The same pulse may be read at half or double.
  const tempoBpm = readings
    .flatMap(reading => [0.5, 1, 2].map(factor => reading.tempoBpm * factor))
    .sort((a, b) => Math.abs(a - grid.tempoBpm) - Math.abs(b - grid.tempoBpm))[0]
  const differs = tempoBpm !== undefined && Math.abs(tempoBpm / grid.tempoBpm - 1) > SAME_TEMPO
  if (!differs && !drifts) return { kind: 'does-not-fit' }
  return { kind: 'other-tempo', tempoBpm: differs ? tempoBpm : null }
}
