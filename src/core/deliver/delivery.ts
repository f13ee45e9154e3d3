/** A delivery: a plan rendered into a file, with a short report. */
import { Resampler } from '../audio/resample'
import { peakOf } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Planar } from '../audio/frames'
import { LoudnessMeter, type Loudness } from '../loudness/loudness'
import { TruePeakMeter } from '../loudness/true-peak'
import { Ceiling, CEILING_LATENCY_FRAMES } from '../effects/ceiling'
import { renderOffline, type RenderOptions } from '../mix/render-offline'
import { makeEncoder, type DeliveryFormat, type Encoder } from './encoders'

export interface DeliveryReport {
  seconds: number
  sampleRateHz: number
  bits: DeliveryFormat['bits']
  loudness: Loudness
  /** True if a peak reached the ceiling, so that parts no longer sum to the mix exactly. */
  ceilingTouched: boolean
}

export type DeliveryResult =
  | { kind: 'delivered'; parts: Uint8Array<ArrayBuffer>[]; mediaType: Encoder['mediaType']; report: DeliveryReport }
  | { kind: 'cancelled' }
  | { kind: 'nothing-sounds' }

/** A true peak so near to the ceiling was held back by it. */
const TOUCH_DECIBELS = 0.05

/** Stereo; `parts` joined are the file. Peaks are those of what is written, at its rate, and the ceiling holds for them. */
export async function renderDelivery(options: Omit<RenderOptions, 'sink'> & { format: DeliveryFormat }): Promise<DeliveryResult> {
  const { format, plan } = options
  const { sampleRateHz } = format
  const encoder = makeEncoder(format)
  const meter = new LoudnessMeter(2)
  const truePeaks = [new TruePeakMeter(), new TruePeakMeter()]
  const converter = sampleRateHz === SAMPLE_RATE_HZ ? null : new RateConverter(sampleRateHz, plan.output.ceiling)
  let frames = 0
  let samplePeak = 0
  const write = (planes: Planar) => {
    frames += planes[0].length
    samplePeak = Math.max(samplePeak, ...planes.map(peakOf))
    planes.forEach((plane, c) => truePeaks[c].push(plane, samplePeak))
    encoder.push(planes)
  }
  const rendered = await renderOffline({
    ...options,
    sink: planes => {
      meter.push(planes)
      write(converter?.push(planes) ?? planes)
    },
  })
  if (rendered === null) return { kind: 'cancelled' }
  if (rendered === 0) return { kind: 'nothing-sounds' }
  if (converter) write(converter.flush())
  const truePeak = Math.max(samplePeak, ...truePeaks.map(({ peak }) => peak))
  const loudness: Loudness = { ...meter.read(), samplePeakDbfs: 20 * Math.log10(samplePeak), truePeakDbtp: 20 * Math.log10(truePeak) }
  return {
    kind: 'delivered',
    parts: encoder.finish(),
    mediaType: encoder.mediaType,
    report: {
      seconds: frames / sampleRateHz,
      sampleRateHz,
      bits: format.bits,
      loudness,
      ceilingTouched: loudness.truePeakDbtp > 20 * Math.log10(plan.output.ceiling) - TOUCH_DECIBELS,
    },
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
