/** The sum of spans, each read from its sound, faded and weighted: what a channel plays before it is placed in the mix. */
import type { AssetId } from '../song/schema'
import type { FrameRange } from '../song/select'
import type { SampleSource } from './chunk-window'

/** A stretch of one asset that sounds from startFrame to endFrame of the song, faded at both ends. */
export interface Span extends FrameRange {
  assetId: AssetId
  /** Asset frame = song frame - originFrame. */
  originFrame: number
  gain: number
  fadeInFrames: number
  fadeOutFrames: number
  /** This fade and its partner's add up to 1 in amplitude instead of in power: for two sounds that are alike where they cross. */
  alikeIn?: boolean
  alikeOut?: boolean
}

/** Outcomes, or-ed together: something sounded; some sound was not at hand. */
export const SOUNDED = 1
export const MISSED = 2

/**
 * Adds what sounds from song frame `frame` on into places `offset`..`limit` of each channel of `sums`.
 * @param scratch At least `limit - offset` long; overwritten.
 * @returns SOUNDED and MISSED or-ed together; 0 for silence.
 */
export function addSpansInto(
  sums: readonly Float32Array[],
  scratch: Float32Array,
  spans: readonly Span[],
  source: SampleSource,
  frame: number,
  offset: number,
  limit: number,
): number {
  const end = frame + limit - offset
  const first = firstEndingAfter(spans, frame)
  if (first === spans.length || spans[first].startFrame >= end) return 0
  const place = offset - frame
  let outcome = SOUNDED
  for (let s = first; s < spans.length && spans[s].startFrame < end; s++) {
    const span = spans[s]
    const from = Math.max(frame, span.startFrame)
    const to = Math.min(end, span.endFrame)
    if (to <= from) continue
    const fades = from < span.startFrame + span.fadeInFrames || to > span.endFrame - span.fadeOutFrames
    for (let c = 0; c < sums.length; c++) {
      if (!source.read(span.assetId, c, from - span.originFrame, scratch, 0, to - from)) outcome |= MISSED
      const sum = sums[c]
      const { gain } = span
      if (fades) for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain * fadeAt(span, i)
      else for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain
    }
  }
  return outcome
}

/** Spans end in the order in which they start; the first that still sounds at a frame. */
function firstEndingAfter(spans: readonly Span[], frame: number): number {
  let low = 0
  let high = spans.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (spans[middle].endFrame > frame) high = middle
    else low = middle + 1
  }
  return low
}

/** Equal-power fades, so that two unlike sounds that cross keep their loudness; equal-gain ones for two that are alike. */
function fadeAt(span: Span, frame: number): number {
  let gain = 1
  const sinceStart = frame - span.startFrame
  if (sinceStart < span.fadeInFrames) gain = fadeShape((sinceStart + 0.5) / span.fadeInFrames, span.alikeIn)
  const untilEnd = span.endFrame - frame
  if (untilEnd <= span.fadeOutFrames) gain *= fadeShape((untilEnd - 0.5) / span.fadeOutFrames, span.alikeOut)
  return gain
}

function fadeShape(part: number, alike: boolean | undefined): number {
  return alike ? part : Math.sin(part * (Math.PI / 2))
}
