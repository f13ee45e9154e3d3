/** Rearranging and colouring the beat: a command, then what the workers find or render for it, as one step of undo. */
import type { TreatmentOptions } from '../../../core/beat/treatments'
import { framesPerBeat } from '../../../core/beat/grid'
import type { BeatMatch } from '../../../core/beat/match'
import { addTreatment, replaceBeatFile, shiftPieces, sourceRanges, type BarRange } from '../../../core/song/arrangement'
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

export type ReplaceOutcome = { kind: 'replaced'; offsetFrames: number } | Exclude<BeatMatch, { kind: 'fits' }> | { kind: 'not-read' }

/** A newer file of the same beat takes the old one's place, if it is the same beat at the same speed. */
export async function replaceBeat(file: File, onProgress: (fraction: number) => void): Promise<ReplaceOutcome> {
  const assetId = makeId() as AssetId
  const imported = await runJob('importBeat', { file, assetId, acceptCutShort: false }, { onProgress: fraction => onProgress(0.5 * fraction) })
  if (imported.kind !== 'done' || imported.value.kind !== 'imported') return { kind: 'not-read' }
  const { sound } = imported.value
  const matched = await runJob('matchBeats', { before: currentSong().beat.assetId, after: assetId })
  if (matched.kind !== 'done' || matched.value.kind !== 'fits') {
    await discardAsset(assetId)
    return matched.kind === 'done' && matched.value.kind !== 'fits' ? matched.value : { kind: 'not-read' }
  }
  const { offsetFrames } = matched.value
  edit(`use ${file.name} as the beat`, song => replaceBeatFile(song, { assetId, fileName: file.name, sourceFrames: sound.frames, offsetFrames }))
  return { kind: 'replaced', offsetFrames }
}
