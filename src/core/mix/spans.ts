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

/** Spans as the renderer reads them: numbers in one array, which a thread can hand to another as it is. */
export interface PackedSpans {
  /** Sounds that the spans name by their places in here. */
  assetIds: readonly AssetId[]
  /** FIELDS numbers a span. */
  numbers: Float64Array
}

const FIELDS = 8
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

export function packSpans(spans: readonly Span[]): PackedSpans {
  const places = new Map<AssetId, number>()
  const numbers = new Float64Array(FIELDS * spans.length)
  spans.forEach((span, i) => {
    const place = places.get(span.assetId) ?? places.size
    places.set(span.assetId, place)
    const alike = (span.alikeIn ? ALIKE_IN : 0) | (span.alikeOut ? ALIKE_OUT : 0)
    numbers.set([place, span.originFrame, span.startFrame, span.endFrame, span.gain, span.fadeInFrames, span.fadeOutFrames, alike], FIELDS * i)
  })
  return { assetIds: [...places.keys()], numbers }
}

export function equalSpans(a: PackedSpans, b: PackedSpans): boolean {
  if (a === b) return true
  if (a.numbers.length !== b.numbers.length || a.assetIds.length !== b.assetIds.length) return false
  for (let i = 0; i < a.numbers.length; i++) if (a.numbers[i] !== b.numbers[i]) return false
  for (let i = 0; i < a.assetIds.length; i++) if (a.assetIds[i] !== b.assetIds[i]) return false
  return true
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
  { assetIds, numbers }: PackedSpans,
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
    const fades = from < numbers[s + START] + numbers[s + FADE_IN] || to > numbers[s + END] - numbers[s + FADE_OUT]
    const gain = numbers[s + GAIN]
    for (let c = 0; c < sums.length; c++) {
      if (!source.read(assetIds[numbers[s + ASSET]], c, from - numbers[s + ORIGIN], scratch, 0, to - from)) outcome |= MISSED
      const sum = sums[c]
      if (fades) for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain * fadeAt(numbers, s, i)
      else for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain
    }
  }
  return outcome
}

/** Spans end in the order in which they start; where the first begins that still sounds at a frame. */
function firstEndingAfter(numbers: Float64Array, frame: number): number {
  let low = 0
  let high = numbers.length / FIELDS
  while (low < high) {
    const middle = (low + high) >> 1
    if (numbers[FIELDS * middle + END] > frame) high = middle
    else low = middle + 1
  }
  return FIELDS * low
}

/** Equal-power fades, so that two unlike sounds that cross keep their loudness; equal-gain ones for two that are alike. */
function fadeAt(numbers: Float64Array, s: number, frame: number): number {
  let gain = 1
  const sinceStart = frame - numbers[s + START]
  if (sinceStart < numbers[s + FADE_IN]) gain = fadeShape((sinceStart + 0.5) / numbers[s + FADE_IN], (numbers[s + ALIKE] & ALIKE_IN) !== 0)
  const untilEnd = numbers[s + END] - frame
  if (untilEnd <= numbers[s + FADE_OUT]) gain *= fadeShape((untilEnd - 0.5) / numbers[s + FADE_OUT], (numbers[s + ALIKE] & ALIKE_OUT) !== 0)
  return gain
}

function fadeShape(part: number, alike: boolean): number {
  return alike ? part : Math.sin(part * (Math.PI / 2))
}
