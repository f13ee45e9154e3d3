/** A delivery: a plan rendered into a file, with a report. */
import { Resampler } from '../audio/resample'
import { decibelsToGain, peakOf } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Planar } from '../audio/frames'
import { LoudnessMeter, type Loudness, type LoudnessShape } from '../loudness/loudness'
import { TruePeakMeter } from '../loudness/true-peak'
import { Ceiling, CEILING_LATENCY_FRAMES } from '../effects/ceiling'
import { renderOffline, type RenderOptions } from '../mix/render-offline'
import { AS_MIXED, shaped, type DeliveryShape } from './delivery-shape'
import { isLossy, makeEncoder, type DeliveryFormat, type DeliveryTags, type Encoder } from './encoders'
import { measureEncoded, type Encoded } from './encoded'
import { aimAt, held, type Aimed, type LoudnessAim } from './loudness-aim'
import { SoundCheck, type SoundFacts } from './sound-check'

export interface DeliveryReport extends LoudnessShape, SoundFacts {
  seconds: number
  frames: number
  format: DeliveryFormat
  loudness: Loudness
  /** True if a peak reached the ceiling, so that parts no longer sum to the mix exactly. */
  ceilingTouched: boolean
  /** Where a loudness was aimed at, how it was reached; of silence, and without an aim, null. */
  aimed: Aimed | null
  /** What comes out of a file that is not written to the sample; null of one that is, and where nothing here plays it. */
  encoded: Encoded | null
}

export type DeliveryResult =
  | { kind: 'delivered'; parts: Uint8Array<ArrayBuffer>[]; mediaType: Encoder['mediaType']; report: DeliveryReport }
  | { kind: 'cancelled' }
  | { kind: 'nothing-sounds' }

/** A true peak so near to the ceiling was held back by it. */
const TOUCH_DECIBELS = 0.05

export interface DeliveryOptions extends Omit<RenderOptions, 'sink'> {
  format: DeliveryFormat
  tags?: DeliveryTags
  /** How loud it is to be, in place of the mix's own ceiling; null: as it is mixed. */
  aim?: LoudnessAim | null
  shape?: DeliveryShape
}

/** A stretch out of the middle begins and ends softly: 5 ms. */
const EDGE_FADE_FRAMES = 240
/** So high a ceiling holds nothing. */
const NO_CEILING = 1_000

/** Stereo; `parts` joined are the file. Peaks are those of what is written, at its rate, and the ceiling holds for them. @throws NoEncoderError */
export async function renderDelivery(options: DeliveryOptions): Promise<DeliveryResult> {
  const { format, plan, aim = null, shape = AS_MIXED, tags, range, signal } = options
  const { sampleRateHz } = format
  const ceiling = aim ? decibelsToGain(aim.truePeakDbtp) : plan.output.ceiling
  const encoder = await makeEncoder(format, tags)
  const meter = new LoudnessMeter(2)
  const check = new SoundCheck()
  const truePeaks = [new TruePeakMeter(), new TruePeakMeter()]
  const converter = sampleRateHz === SAMPLE_RATE_HZ ? null : new RateConverter(sampleRateHz, ceiling)
  let frames = 0
  let samplePeak = 0
  const write = async (planes: Planar) => {
    if (planes[0].length === 0) return
    frames += planes[0].length
    samplePeak = Math.max(samplePeak, ...planes.map(peakOf))
    planes.forEach((plane, c) => truePeaks[c].push(plane, samplePeak))
    check.push(planes)
    await encoder.push(planes)
  }
  const take = async (planes: Planar) => {
    meter.push(planes)
    await write(converter?.push(planes) ?? planes)
  }
  // What depends on the whole is done when it is there.
  const isGathered = aim !== null || shape.fromFirstSound || shape.fadeInSeconds > 0 || shape.fadeOutSeconds > 0
  const gathered: Planar[] = []
  let at = 0
  const rendered = await renderOffline({
    ...options,
    plan: aim ? { ...plan, output: { ...plan.output, ceiling: NO_CEILING } } : plan,
    sink: async planes => {
      if (range) fadeEdges(planes, at, range.endFrame - range.startFrame)
      at += planes[0].length
      if (isGathered) gathered.push(planes)
      else await take(planes)
    },
  })
  if (rendered === null || rendered === 0) {
    await encoder.cancel()
    return { kind: rendered === null ? 'cancelled' : 'nothing-sounds' }
  }
  const pieces = isGathered ? shaped(gathered, shape) : []
  const aimed = aim && aimAt(pieces, aim)
  const out = aim ? held(pieces, { gainDecibels: aimed?.gainDecibels ?? 0, truePeakDbtp: aim.truePeakDbtp }) : pieces
  for (const planes of out) {
    if (signal?.aborted) {
      await encoder.cancel()
      return { kind: 'cancelled' }
    }
    await take(planes)
  }
  if (converter) await write(converter.flush())
  const truePeak = Math.max(samplePeak, ...truePeaks.map(({ peak }) => peak))
  const loudness: Loudness = { ...meter.read(), samplePeakDbfs: 20 * Math.log10(samplePeak), truePeakDbtp: 20 * Math.log10(truePeak) }
  const parts = await encoder.finish()
  return {
    kind: 'delivered',
    parts,
    mediaType: encoder.mediaType,
    report: {
      seconds: frames / sampleRateHz,
      frames,
      format,
      loudness,
      ...meter.readShape(),
      ...check.read(),
      ceilingTouched: loudness.truePeakDbtp > 20 * Math.log10(ceiling) - TOUCH_DECIBELS,
      aimed,
      encoded: isLossy(format) ? await measureEncoded(parts) : null,
    },
  }
}

/** Of a stretch of so many frames, the piece that begins at `at`. In place. */
function fadeEdges(planes: Planar, at: number, frames: number): void {
  for (const plane of planes) {
    for (let i = 0; i < plane.length; i++) {
      const gain = Math.min((at + i) / EDGE_FADE_FRAMES, (frames - 1 - at - i) / EDGE_FADE_FRAMES)
      if (gain < 1) plane[i] *= Math.max(0, gain)
    }
  }
}

/** To another rate, at which the ceiling is held anew: what lay between the samples may be one now. */
class RateConverter {
  private readonly resampler: Resampler
  private readonly ceiling: Ceiling
  private framesToSkip = CEILING_LATENCY_FRAMES

  constructor(sampleRateHz: number, ceiling: number) {
    this.resampler = new Resampler(SAMPLE_RATE_HZ, sampleRateHz, 2)
    this.ceiling = new Ceiling(ceiling, sampleRateHz)
  }

  push(planes: Planar): Planar {
    return this.hold(this.resampler.push(planes))
  }

  flush(): Planar {
    const last = this.resampler.flush().map(plane => {
      const padded = new Float32Array(plane.length + CEILING_LATENCY_FRAMES)
      padded.set(plane)
      return padded
    })
    return this.hold(last)
  }

  private hold(planes: Planar): Planar {
    this.ceiling.process(planes[0], planes[1])
    const skipped = Math.min(this.framesToSkip, planes[0].length)
    this.framesToSkip -= skipped
    return planes.map(plane => plane.subarray(skipped))
  }
}
