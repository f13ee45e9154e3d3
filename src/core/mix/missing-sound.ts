/** Which of the sound that is not stored a plan would play, and where in the song. */
import type { AssetId } from '../song/schema'
import type { FrameRange } from '../song/select'
import type { MixPlan } from './plan'
import type { Span } from './spans'

/** A stretch of an asset, in its own frames. */
export interface AssetStretch extends FrameRange {
  assetId: AssetId
}

/** The spans that sound in a plan. */
export function soundingSpans(plan: MixPlan): Span[] {
  return plan.channels.filter(channel => channel.gain > 0).flatMap(channel => channel.spans)
}

export function assetsOfSpans(spans: readonly Span[]): AssetId[] {
  return [...new Set(spans.map(span => span.assetId))]
}

/** Stretches of the song, in song frames, in which spans would play what is missing; in time order, those that meet joined. */
export function missingInSpans(spans: readonly Span[], missing: readonly AssetStretch[]): AssetStretch[] {
  const found = spans.flatMap(span =>
    missing
      .filter(stretch => stretch.assetId === span.assetId)
      .map(stretch => ({
        assetId: span.assetId,
        startFrame: Math.max(span.startFrame, stretch.startFrame + span.originFrame),
        endFrame: Math.min(span.endFrame, stretch.endFrame + span.originFrame),
      }))
      .filter(stretch => stretch.endFrame > stretch.startFrame),
  )
  const joined: AssetStretch[] = []
  for (const stretch of found.sort((a, b) => a.startFrame - b.startFrame)) {
    const last = joined.find(other => other.assetId === stretch.assetId && other.endFrame >= stretch.startFrame)
    if (last) last.endFrame = Math.max(last.endFrame, stretch.endFrame)
    else joined.push(stretch)
  }
  return joined
}
