/** What a song needs to be made before it sounds as it says. */
import { currentComp } from '../song/select'
import type { AssetId, Beat, Song, Treatment } from '../song/schema'
import { keyOfJob, type PrintJob, type PrintTable } from './jobs'
import { laidOver } from './laid-over'
import { madePhrases } from './made-voices'
import { mendedJobsOf } from './mended'

/** Of a treatment that was rendered when it was laid, there is none to make. */
export function treatedJob(beatAssetId: AssetId, treatment: Treatment): PrintJob | null {
  const { kind, amount, fadeFrames, sourceStartFrame, sourceEndFrame, assetId } = treatment
  if (assetId !== null) return null
  return { kind: 'treated', assetId: beatAssetId, startFrame: sourceStartFrame, endFrame: sourceEndFrame, treatment: { kind, amount, fadeFrames } }
}

/** Every job once; those that sound nearest to a frame of the song first. */
export function planPrints(song: Song, nearFrame = 0): PrintJob[] {
  const places = new Map<string, { job: PrintJob; away: number }>()
  const need = (job: PrintJob, startFrame: number, endFrame: number) => {
    const key = keyOfJob(job)
    const away = Math.max(0, startFrame - nearFrame, nearFrame - endFrame)
    const known = places.get(key)
    if (!known || away < known.away) places.set(key, { job, away })
  }
  for (const { job, startFrame, endFrame } of treatedPlaces(song.beat)) need(job, startFrame, endFrame)
  const takes = new Map(song.takes.map(take => [take.id, take]))
  for (const layer of song.layers) {
    for (const pick of currentComp(layer).picks) {
      const take = takes.get(pick.takeId)
      if (!take || pick.asSung) continue
      const originFrame = take.originFrame + pick.nudgeFrames
      for (const job of mendedJobsOf(take.assetId, laidOver(song, layer, take))) {
        const [startFrame, endFrame] = [job.startFrame + originFrame, job.endFrame + originFrame]
        if (startFrame < pick.endFrame && endFrame > pick.startFrame) need(job, startFrame, endFrame)
      }
    }
  }
  for (const layer of song.layers) for (const { job, startFrame, endFrame } of madePhrases(song, layer)) need(job, startFrame, endFrame)
  return [...places.values()].sort((a, b) => a.away - b.away).map(({ job }) => job)
}

function treatedPlaces({ assetId, pieces, treatments }: Beat) {
  return treatments.flatMap(treatment => {
    const job = treatedJob(assetId, treatment)
    if (!job) return []
    const sounding = pieces.filter(
      ({ muted, sourceFrame, frames }) => !muted && sourceFrame < treatment.sourceEndFrame && sourceFrame + frames > treatment.sourceStartFrame,
    )
    return sounding.map(piece => {
      const startFrame = piece.startFrame + treatment.sourceStartFrame - piece.sourceFrame
      return { job, startFrame, endFrame: startFrame + treatment.sourceEndFrame - treatment.sourceStartFrame }
    })
  })
}

/** Those that are not made yet. */
export function missingPrints(song: Song, prints: PrintTable, nearFrame = 0): PrintJob[] {
  return planPrints(song, nearFrame).filter(job => !prints.has(keyOfJob(job)))
}
