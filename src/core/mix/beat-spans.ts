/** What of which asset sounds for the beat: its pieces, with treated stretches in place of plain ones. */
import { keyOfJob, NO_PRINTS, type PrintTable } from '../prints/jobs'
import { treatedJob } from '../prints/plan-prints'
import type { AssetId, Beat, BeatPiece } from '../song/schema'
import type { Span } from './spans'

/** Crossfade where two pieces meet that do not follow each other in the file. */
export const JOIN_FRAMES = 480

/** A treatment whose print is not made yet is left out. */
export function spansOfBeat({ assetId, pieces, treatments }: Pick<Beat, 'assetId' | 'pieces' | 'treatments'>, prints: PrintTable = NO_PRINTS): Span[] {
  return pieces.flatMap((piece, i): Span[] => {
    if (piece.muted) return []
    const before = joins(pieces[i - 1], piece) ? JOIN_FRAMES : 0
    const after = joins(piece, pieces[i + 1]) ? JOIN_FRAMES : 0
    const startFrame = piece.startFrame - (isSilent(pieces[i - 1]) ? 0 : before / 2)
    const endFrame = piece.startFrame + piece.frames + (isSilent(pieces[i + 1]) ? 0 : after / 2)
    const shift = piece.startFrame - piece.sourceFrame
    const parts = cutByTreatments(startFrame - shift, endFrame - shift)
    return parts.map(({ asset, assetStart, from, to }, k) => ({
      assetId: asset,
      originFrame: assetStart + shift,
      startFrame: from + shift,
      endFrame: to + shift,
      gain: 1,
      fadeInFrames: k === 0 ? before : 0,
      fadeOutFrames: k === parts.length - 1 ? after : 0,
      alikeIn: true,
      alikeOut: true,
    }))
  })

  /** Source frames from..to, in parts that each come from one asset; `assetStart` is where that asset's frame 0 lies in the file. */
  function cutByTreatments(from: number, to: number): { asset: AssetId; assetStart: number; from: number; to: number }[] {
    const parts = []
    let at = from
    for (const treatment of treatments) {
      const start = Math.max(at, treatment.sourceStartFrame)
      const end = Math.min(to, treatment.sourceEndFrame)
      const job = treatedJob(assetId, treatment)
      const asset = job ? prints.get(keyOfJob(job)) : treatment.assetId
      if (end <= start || !asset) continue
      if (start > at) parts.push({ asset: assetId, assetStart: 0, from: at, to: start })
      parts.push({ asset, assetStart: treatment.sourceStartFrame, from: start, to: end })
      at = end
    }
    if (to > at) parts.push({ asset: assetId, assetStart: 0, from: at, to })
    return parts
  }
}

/** Whether two neighbours meet with a cut: the ends of the beat and what runs on are no cuts. */
function joins(first: BeatPiece | undefined, second: BeatPiece | undefined): boolean {
  if (!first || !second) return false
  return first.muted !== second.muted || first.sourceFrame + first.frames !== second.sourceFrame
}

function isSilent(piece: BeatPiece | undefined): boolean {
  return piece?.muted === true
}
