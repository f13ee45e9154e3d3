/** Making a double from takes that no layer plays. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { PeakLevel } from '../audio/peaks'
import { checkPick } from '../comp/picks'
import type { PlacedPeaks } from '../comp/quiet-spot'
import type { LayerId, LineId, Song, Take, TakeId } from '../song/schema'
import { currentComp, lengthOf, overlapFrames, requireLayer, requirePlacedLine, requireTake, takesCovering, type FrameRange } from '../song/select'

export interface DoubleChoice {
  lineId: LineId
  takeId: TakeId
  /** -1..1: how alike the loudness of this take and the lead's pick run over the line; null while the lead has picked nothing there. */
  likeness: number | null
}

export interface DoubleProposal {
  choices: DoubleChoice[]
  /** Lines for which every take is in use already: one more pass of each is needed. */
  missingLineIds: LineId[]
  /** Lines in which the double already plays something: left alone unless the singer says otherwise. */
  playedLineIds: LineId[]
}

/** What the proposal needs of stored levels: null while a take's are not at hand. */
export type PeaksOf = (take: Take) => PlacedPeaks | null

/**
 * For each line the free take of the source layer, or of the double itself, that moves most like what the source layer plays there.
 * A take that any other layer plays in that line is never offered, and where the double plays something already nothing is.
 * @param options `replacing`: also in lines in which the double plays something.
 */
export function proposeDouble(
  song: Song,
  options: { sourceLayerId: LayerId; doubleLayerId: LayerId; lineIds: LineId[]; peaksOf: PeaksOf; replacing?: boolean },
): DoubleProposal {
  const proposal: DoubleProposal = { choices: [], missingLineIds: [], playedLineIds: [] }
  for (const lineId of options.lineIds) {
    const range = requirePlacedLine(song, lineId)
    if (playsIn(song, options.doubleLayerId, range)) {
      proposal.playedLineIds.push(lineId)
      if (!options.replacing) continue
    }
    const free = [options.sourceLayerId, options.doubleLayerId]
      .flatMap(layerId => takesCovering(song, layerId, range))
      // The lead has first choice: a line it has not picked yet keeps at least one take for it.
      .filter(take => checkPick(song, { layerId: options.doubleLayerId, takeId: take.id, ...range }).ok)
    const ground = groundTake(song, options.sourceLayerId, range)
    const candidates = ground ? free.filter(take => take.id !== ground.id) : free.slice(1)
    const ranked = candidates
      .map(take => ({ lineId, takeId: take.id, likeness: ground ? likenessOf(options.peaksOf(ground), options.peaksOf(take), range) : null }))
      .sort((a, b) => (b.likeness ?? 0) - (a.likeness ?? 0))
    if (ranked.length > 0) proposal.choices.push(ranked[0])
    else proposal.missingLineIds.push(lineId)
  }
  return proposal
}

/** What a seam may take of a neighbouring line is not yet playing in it. */
function playsIn(song: Song, layerId: LayerId, range: FrameRange): boolean {
  const played = currentComp(requireLayer(song, layerId)).picks.reduce((sum, pick) => sum + overlapFrames(pick, range), 0)
  return played > 0.25 * lengthOf(range)
}

function groundTake(song: Song, layerId: LayerId, range: FrameRange): Take | null {
  const picks = currentComp(requireLayer(song, layerId)).picks
  const most = [...picks].sort((a, b) => overlapFrames(b, range) - overlapFrames(a, range))[0]
  return most && overlapFrames(most, range) > lengthOf(range) / 2 ? requireTake(song, most.takeId) : null
}

/** How far two takes of one line may lie apart and still be compared. */
const MAX_LAG_SECONDS = 0.15

/** Pearson's correlation of two takes' levels in decibels over a range, at the best small shift between them. */
export function likenessOf(a: PlacedPeaks | null, b: PlacedPeaks | null, range: FrameRange): number {
  if (!a || !b) return 0
  const levelA = a.peaks.levels[1]
  const levelB = b.peaks.levels[1]
  const bins = Math.floor(lengthOf(range) / levelA.binFrames)
  const maxLag = Math.round((MAX_LAG_SECONDS * SAMPLE_RATE_HZ) / levelA.binFrames)
  const ground = levelsOver(levelA, range.startFrame - a.originFrame, bins, 0)
  let best = -1
  for (let lag = -maxLag; lag <= maxLag; lag++) best = Math.max(best, correlation(ground, levelsOver(levelB, range.startFrame - b.originFrame, bins, lag)))
  return best
}

function levelsOver(level: PeakLevel, startFrame: number, bins: number, lag: number): Float64Array {
  const first = Math.round(startFrame / level.binFrames) + lag
  return Float64Array.from({ length: bins }, (_, i) => Math.max(-60, 20 * Math.log10((level.rms[first + i] ?? 0) + 1e-9)))
}

function correlation(a: Float64Array, b: Float64Array): number {
  const meanA = a.reduce((x, y) => x + y, 0) / a.length
  const meanB = b.reduce((x, y) => x + y, 0) / b.length
  let top = 0
  let a2 = 0
  let b2 = 0
  for (let i = 0; i < a.length; i++) {
    top += (a[i] - meanA) * (b[i] - meanB)
    a2 += (a[i] - meanA) ** 2
    b2 += (b[i] - meanB) ** 2
  }
  return a2 * b2 > 0 ? top / Math.sqrt(a2 * b2) : 0
}
