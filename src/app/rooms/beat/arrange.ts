/** Rearranging and colouring the beat: a command, with what the workers find for it, as one step of undo. */
import { framesPerBeat } from '../../../core/beat/grid'
import { addTreatment, barsFallenSilent, replaceBeatFile, shiftPieces, sourceRanges, type BarRange } from '../../../core/song/arrangement'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
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

/** Colours every stretch that sounds over some bars. It is heard as soon as the prints are made. */
export function treatBars(label: string, range: BarRange, { kind, amount }: Pick<Treatment, 'kind' | 'amount'>): void {
  const { beat } = currentSong()
  const fadeFrames = Math.round(framesPerBeat(beat.grid) / 4)
  const treatments = sourceRanges(currentSong(), range).flatMap((stretch): Treatment[] => {
    const sourceStartFrame = Math.max(0, stretch.sourceStartFrame)
    const sourceEndFrame = Math.min(beat.sourceFrames, stretch.sourceEndFrame)
    return sourceEndFrame - sourceStartFrame < 2 ? [] : [{ id: makeId(), kind, amount, fadeFrames, sourceStartFrame, sourceEndFrame, assetId: null }]
  })
  edit(label, song => treatments.reduce((current, treatment) => addTreatment(current, { treatment }), song))
}

export type ReplaceOutcome =
  | { kind: 'replaced'; offsetFrames: number; /** Bars that sounded before and are silent now. */ silentBars: BarRange[] }
  | { kind: 'other-tempo'; /** Null where only the drift tells. */ tempoBpm: number | null }
  /** It sounds otherwise and may run at the same speed. */
  | { kind: 'does-not-fit'; file: File }
  | { kind: 'no-bars' }
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
    const outcome = matched.kind === 'done' ? await otherTempo(file, assetId, matched.value.kind === 'other-tempo') : ({ kind: 'not-read' } as const)
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
async function otherTempo(file: File, assetId: AssetId, drifts: boolean): Promise<ReplaceOutcome> {
  const { grid } = currentSong().beat
  const heard = await runJob('hearTempo', { assetId, wish: {} })
  const readings = heard.kind === 'done' ? heard.value.readings : []
  // The same pulse may be read at half or double.
  const tempoBpm = readings
    .flatMap(reading => [0.5, 1, 2].map(factor => reading.tempoBpm * factor))
    .sort((a, b) => Math.abs(a - grid.tempoBpm) - Math.abs(b - grid.tempoBpm))[0]
  const differs = tempoBpm !== undefined && Math.abs(tempoBpm / grid.tempoBpm - 1) > SAME_TEMPO
  if (!differs && !drifts) return { kind: 'does-not-fit', file }
  return { kind: 'other-tempo', tempoBpm: differs ? tempoBpm : null }
}

/** Another beat at the same speed, its bar one on the song's: for what was sung over a click, or over a sketch. */
export async function layByBars(file: File, onProgress: (fraction: number) => void): Promise<ReplaceOutcome> {
  const assetId = makeId() as AssetId
  const imported = await runJob('importBeat', { file, assetId, acceptCutShort: true }, { onProgress })
  if (imported.kind !== 'done' || imported.value.kind !== 'imported') return { kind: 'not-read' }
  const { grid } = currentSong().beat
  const heard = await runJob('hearTempo', { assetId, wish: { tempoBpm: grid.tempoBpm } })
  const reading = heard.kind === 'done' ? heard.value.readings[0] : undefined
  const barOne = reading?.barOnes[0]
  const isOther = reading && (reading.beats !== null || Math.abs(reading.tempoBpm / grid.tempoBpm - 1) > SAME_TEMPO)
  if (!reading || !barOne || isOther) {
    await discardAsset(assetId)
    return isOther ? { kind: 'other-tempo', tempoBpm: reading.beats ? null : reading.tempoBpm } : { kind: 'no-bars' }
  }
  const offsetFrames = Math.round(barOne.seconds * SAMPLE_RATE_HZ) - grid.barOneFrame
  const before = currentSong()
  const { sound } = imported.value
  edit(`use ${file.name} as the beat`, song => replaceBeatFile(song, { assetId, fileName: file.name, sourceFrames: sound.frames, offsetFrames }))
  return { kind: 'replaced', offsetFrames, silentBars: barsFallenSilent(before, currentSong()) }
}
