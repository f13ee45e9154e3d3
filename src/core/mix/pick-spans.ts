/** What picks play: a span each, crossfaded where two meet. */
import { decibelsToGain } from '../audio/decibels'
import { runsOn } from '../comp/picks'
import { gainPointsOf } from '../edits/gain-points'
import { keyOfJob, NO_PRINTS, type PrintTable } from '../prints/jobs'
import { laidOver, type LaidOver } from '../prints/laid-over'
import { mendedJobsOf } from '../prints/mended'
import type { AssetId, Layer, Pick, Song, Take } from '../song/schema'
import { requireTake } from '../song/select'
import { soundingAt, timeMapOf } from '../tune/time-map'
import type { Span } from './spans'

/** Crossfade between neighbouring picks. */
export const SEAM_FRAMES = 960
/** Fade where a pick meets silence. */
const EDGE_FADE_FRAMES = 240

/** Picks, and the layer that plays them: how it is tidied and tuned is laid over their takes. */
export interface Played {
  picks: readonly Pick[]
  layer: Layer
}

/**
 * Where two picks meet both sound for the length of the seam, as far as their takes reach; elsewhere a pick fades inside its own
 * edges. A cut within one take is not heard.
 */
export function spansOfPicks({ picks: cut, layer }: Played, song: Song, prints: PrintTable = NO_PRINTS): Span[] {
  const picks = cut.reduce<Pick[]>((joined, pick) => {
    const last = joined.at(-1)
    if (last && runsOn(last, pick)) joined[joined.length - 1] = { ...last, endFrame: pick.endFrame }
    else joined.push(pick)
    return joined
  }, [])
  return picks.flatMap((pick, i) => {
    const take = requireTake(song, pick.takeId)
    const next = picks[i + 1]
    const before = picks[i - 1]?.endFrame === pick.startFrame ? seamFrames(song, picks[i - 1], pick) : 0
    const after = next?.startFrame === pick.endFrame ? seamFrames(song, pick, next) : 0
    const room = pick.endFrame - pick.startFrame
    const span: Span = {
      assetId: take.assetId,
      originFrame: take.originFrame + pick.nudgeFrames,
      startFrame: pick.startFrame - before / 2,
      endFrame: pick.endFrame + after / 2,
      gain: decibelsToGain(pick.gainDecibels),
      fadeInFrames: before > 0 ? before : Math.min(EDGE_FADE_FRAMES, room >> 1),
      fadeOutFrames: after > 0 ? after : Math.min(EDGE_FADE_FRAMES, room >> 1),
      ...(before > 0 && pick.seam?.alike ? { alikeIn: true } : {}),
      ...(after > 0 && next?.seam?.alike ? { alikeOut: true } : {}),
    }
    return pick.asSung ? [span] : withEdits(span, take, laidOver(song, layer, take), prints)
  })
}

/** A span of a take with what is laid over the take; a print that is not made yet is left out. */
function withEdits(span: Span, { assetId }: Take, laid: LaidOver, prints: PrintTable): Span[] {
  const { originFrame } = span
  const time = timeMapOf(laid.times)
  const gains = gainPointsOf(laid.gains).map(({ frame, decibels }) => ({ frame: soundingAt(time, frame) + originFrame, decibels }))
  const whole = gains.length > 0 ? { ...span, gains } : span
  const parts: Span[] = []
  let at = span.startFrame
  const add = (part: { assetId: AssetId; originFrame: number }, endFrame: number) => {
    if (endFrame > at) parts.push({ ...whole, ...part, startFrame: at, endFrame, whole: span })
    at = Math.max(at, endFrame)
  }
  for (const job of mendedJobsOf(assetId, laid)) {
    const print = prints.get(keyOfJob(job))
    if (!print) continue
    add({ assetId, originFrame }, Math.min(span.endFrame, job.startFrame + originFrame))
    if (at >= job.startFrame + originFrame)
      add({ assetId: print, originFrame: job.startFrame + originFrame }, Math.min(span.endFrame, job.endFrame + originFrame))
  }
  if (parts.length === 0) return [whole]
  add({ assetId, originFrame }, span.endFrame)
  return parts
}

/** The even length of the seam between two picks that meet: shorter where a take ends near, and no longer than either pick. */
function seamFrames(song: Song, before: Pick, after: Pick): number {
  const half = (after.seam?.frames ?? SEAM_FRAMES) / 2
  const [out, into] = [before, after].map(pick => requireTake(song, pick.takeId))
  const reach = [
    out.endFrame + before.nudgeFrames - before.endFrame,
    (before.endFrame - before.startFrame) / 2,
    after.startFrame - (into.startFrame + after.nudgeFrames),
    (after.endFrame - after.startFrame) / 2,
  ]
  return 2 * Math.floor(Math.max(0, Math.min(half, ...reach)))
}
