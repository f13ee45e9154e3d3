/** What a made voice plays: a span for each phrase whose print is there. */
import { keyOfJob, type PrintTable } from '../prints/jobs'
import { madePhrases } from '../prints/made-voices'
import type { Layer, Song } from '../song/schema'
import type { Span } from './spans'

const FADE_FRAMES = 480

/** In order; a phrase that is not made yet is silent. */
export function spansOfMade(song: Song, layer: Layer, prints: PrintTable): Span[] {
  return madePhrases(song, layer).flatMap(({ job, startFrame, endFrame }): Span[] => {
    const assetId = prints.get(keyOfJob(job))
    const fade = Math.min(FADE_FRAMES, (endFrame - startFrame) >> 1)
    return assetId ? [{ assetId, originFrame: startFrame, startFrame, endFrame, gain: 1, fadeInFrames: fade, fadeOutFrames: fade }] : []
  })
}
