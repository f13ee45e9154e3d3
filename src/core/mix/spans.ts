/** The sum of spans, each read from its sound, faded and weighted: what a channel plays before it is placed in the mix. */
import { decibelsToGain } from '../audio/decibels'
import type { GainPoint } from '../edits/gain-points'
import { GAIN_RANGE_DECIBELS } from '../song/fields'
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
  /** Where it is one part of several that one sound is put together of: from where to where that goes, in which the fades lie. */
  whole?: FrameRange
  /** Times its gain: straight lines of decibels from point to point, in song frames; 0 dB before the first and after the last. */
  gains?: readonly GainPoint[]
}

/** Spans as the renderer reads them: numbers in one array, which a thread can hand to another as it is. */
export interface PackedSpans {
  /** Sounds that the spans name by their places in here. */
  assetIds: readonly AssetId[]
  /** FIELDS numbers a span, in the order of their starts. */
  numbers: Float64Array
  /** Two numbers a point: its frame and its decibels. Those of a span lie together. */
  points: Float64Array
}

/** Numbers a span. */
export const FIELDS = 13
const ASSET = 0
const ORIGIN = 1
const START = 2
const END = 3
const GAIN = 4
const FADE_IN = 5
const FADE_OUT = 6
/** Of both fades, or-ed together. */
const ALIKE = 7
const ALIKE_IN = 1
const ALIKE_OUT = 2
const WHOLE_START = 8
const WHOLE_END = 9
/** Where in the points its own begin, and how many there are. */
const POINTS = 10
const POINT_COUNT = 11
/** The latest end of it and all before it. */
const LATEST_END = 12

export function packSpans(given: readonly Span[]): PackedSpans {
  const spans = [...given].sort((a, b) => a.startFrame - b.startFrame)
  const places = new Map<AssetId, number>()
  const numbers = new Float64Array(FIELDS * spans.length)
  const points: number[] = []
  let latestEnd = -Infinity
  spans.forEach((span, i) => {
    const { assetId, originFrame, startFrame, endFrame, gain, fadeInFrames, fadeOutFrames, whole = span, gains = [] } = span
    const place = places.get(assetId) ?? places.size
    places.set(assetId, place)
    const alike = (span.alikeIn ? ALIKE_IN : 0) | (span.alikeOut ? ALIKE_OUT : 0)
    latestEnd = Math.max(latestEnd, endFrame)
    numbers.set([place, originFrame, startFrame, endFrame, gain, fadeInFrames, fadeOutFrames, alike, whole.startFrame, whole.endFrame], FIELDS * i)
    numbers.set([points.length, gains.length, latestEnd], FIELDS * i + POINTS)
    for (const { frame, decibels } of gains) points.push(frame, decibels)
  })
  return { assetIds: [...places.keys()], numbers, points: Float64Array.from(points) }
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
  { assetIds, numbers, points }: PackedSpans,
  source: SampleSource,
  frame: number,
  offset: number,
  limit: number,
): number {
  const end = frame + limit - offset
  const place = offset - frame
  let outcome = 0
  for (let s = firstEndingAfter(numbers, frame); s < numbers.length && numbers[s + START] < end; s += FIELDS) {
    const from = Math.max(frame, numbers[s + START])
    const to = Math.min(end, numbers[s + END])
    if (to <= from) continue
    outcome |= SOUNDED
    const fades = from < numbers[s + WHOLE_START] + numbers[s + FADE_IN] || to > numbers[s + WHOLE_END] - numbers[s + FADE_OUT]
    const gain = numbers[s + GAIN]
    for (let c = 0; c < sums.length; c++) {
      if (!source.read(assetIds[numbers[s + ASSET]], c, from - numbers[s + ORIGIN], scratch, 0, to - from)) outcome |= MISSED
      if (numbers[s + POINT_COUNT] > 0) applyPoints(scratch, points, numbers[s + POINTS], numbers[s + POINT_COUNT], from, to)
      const sum = sums[c]
      if (fades) for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain * fadeAt(numbers, s, i)
      else for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain
    }
  }
  return outcome
}

/** Where the first span begins before which none still sounds at a frame. */
function firstEndingAfter(numbers: Float64Array, frame: number): number {
  let low = 0
  let high = numbers.length / FIELDS
  while (low < high) {
    const middle = (low + high) >> 1
    if (numbers[FIELDS * middle + LATEST_END] > frame) high = middle
    else low = middle + 1
  }
  return FIELDS * low
}

/** Multiplies the frames from..to, which lie at the start of the block, by what the points say there. */
function applyPoints(block: Float32Array, points: Float64Array, first: number, count: number, from: number, to: number): void {
  const last = first + 2 * (count - 1)
  const end = Math.min(to, Math.ceil(points[last]))
  let p = first
  for (let frame = Math.max(from, Math.ceil(points[first])); frame < end;) {
    while (points[p + 2] <= frame) p += 2
    const slope = (points[p + 3] - points[p + 1]) / (points[p + 2] - points[p])
    const decibels = points[p + 1] + slope * (frame - points[p])
    const until = Math.min(end, Math.ceil(points[p + 2]))
    // -60 dB and below is off; the way there is gone step by step.
    const isOff = points[p + 1] <= GAIN_RANGE_DECIBELS.min && points[p + 3] <= GAIN_RANGE_DECIBELS.min
    const step = decibelsToGain(slope)
    for (let gain = isOff ? 0 : decibelsToGain(decibels); frame < until; frame++) {
      block[frame - from] *= gain
      gain *= step
    }
  }
}

/** Equal-power fades, so that two unlike sounds that cross keep their loudness; equal-gain ones for two that are alike. */
function fadeAt(numbers: Float64Array, s: number, frame: number): number {
  let gain = 1
  const sinceStart = frame - numbers[s + WHOLE_START]
  if (sinceStart < numbers[s + FADE_IN]) gain = fadeShape((sinceStart + 0.5) / numbers[s + FADE_IN], (numbers[s + ALIKE] & ALIKE_IN) !== 0)
  const untilEnd = numbers[s + WHOLE_END] - frame
  if (untilEnd <= numbers[s + FADE_OUT]) gain *= fadeShape((untilEnd - 0.5) / numbers[s + FADE_OUT], (numbers[s + ALIKE] & ALIKE_OUT) !== 0)
  return gain
}

function fadeShape(part: number, alike: boolean): number {
  return alike ? part : Math.sin(part * (Math.PI / 2))
}
