/** Mends laid into a sound. */
import type { Mono } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { gainPointsOf } from '../edits/gain-points'
import { gainsOf, type Mend } from '../edits/tidy'
import type { FrameRange } from '../song/select'
import { fillWithTone } from './fill-with-tone'
import { redrawClick } from './redraw-click'
import { roundClips } from './round-clips'
import { softenPop } from './soften-pop'

/** Where in the take its room's tone lies, and the sound there. */
export type ToneOf = (tone: FrameRange) => Mono

/** What a gain cannot do: clicks, pops, clipped tops, noises. @param voice Changed in place; its first frame is `originFrame` of the asset. */
export function redraw(voice: Mono, mends: readonly Mend[], toneOf: ToneOf, originFrame = 0): void {
  for (const { kind, startFrame, endFrame } of mends) if (kind === 'clip') roundClips(voice, startFrame - originFrame, endFrame - originFrame)
  for (const { kind, startFrame, endFrame } of mends) if (kind === 'click') redrawClick(voice, startFrame - originFrame, endFrame - originFrame)
  for (const { kind, startFrame, endFrame, decibels } of mends) if (kind === 'pop') softenPop(voice, startFrame - originFrame, endFrame - originFrame, decibels)
  for (const { kind, startFrame, endFrame, tone } of mends)
    if (kind === 'noise' && tone) fillWithTone(voice, startFrame - originFrame, endFrame - originFrame, toneOf(tone))
}

/** The whole of it: a new sound with all mends in it. */
export function withMends(voice: Mono, mends: readonly Mend[]): Mono {
  const mended = voice.slice()
  redraw(mended, mends, ({ startFrame, endFrame }) => voice.subarray(startFrame, endFrame))
  const points = gainPointsOf(gainsOf(mends))
  points.slice(1).forEach((after, i) => {
    const before = points[i]
    if (before.decibels === 0 && after.decibels === 0) return
    for (let frame = before.frame; frame < Math.min(after.frame, mended.length); frame++) {
      const along = (frame - before.frame) / (after.frame - before.frame)
      mended[frame] *= decibelsToGain(before.decibels + along * (after.decibels - before.decibels))
    }
  })
  return mended
}
