/** What picks play: a span each, crossfaded where two meet. */
import { decibelsToGain } from '../audio/decibels'
import { runsOn } from '../comp/picks'
import type { Pick, Song } from '../song/schema'
import { requireTake } from '../song/select'
import type { Span } from './spans'

/** Crossfade between neighbouring picks. */
export const SEAM_FRAMES = 960
/** Fade where a pick meets silence. */
const EDGE_FADE_FRAMES = 240

/**
 * Where two picks meet both sound for the length of the seam, as far as their takes reach; elsewhere a pick fades inside its own
 * edges. A cut within one take is not heard.
 */
export function spansOfPicks(cut: readonly Pick[], song: Song): Span[] {
  const picks = cut.reduce<Pick[]>((joined, pick) => {
    const last = joined.at(-1)
    if (last && runsOn(last, pick)) joined[joined.length - 1] = { ...last, endFrame: pick.endFrame }
    else joined.push(pick)
    return joined
  }, [])
  return picks.map((pick, i) => {
    const take = requireTake(song, pick.takeId)
    const next = picks[i + 1]
    const before = picks[i - 1]?.endFrame === pick.startFrame ? seamFrames(song, picks[i - 1], pick) : 0
    const after = next?.startFrame === pick.endFrame ? seamFrames(song, pick, next) : 0
    const room = pick.endFrame - pick.startFrame
    return {
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
  })
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
