/** A delivery: a plan rendered into a WAV file, with a short report. */
import { makeRandom } from '../audio/random'
import { Resampler } from '../audio/resample'
import { SAMPLE_RATE_HZ, type Planar } from '../audio/frames'
import { LoudnessMeter, type Loudness } from '../loudness/loudness'
import { renderOffline, type RenderOptions } from '../mix/render-offline'
import { encodeSamples, encodeWavHeader } from './wav'

export interface DeliveryReport {
  seconds: number
  sampleRateHz: number
  loudness: Loudness
  /** True if a peak reached the ceiling, so that parts no longer sum to the mix exactly. */
  ceilingTouched: boolean
}

export type DeliveryResult = { kind: 'delivered'; parts: Uint8Array<ArrayBuffer>[]; report: DeliveryReport } | { kind: 'cancelled' } | { kind: 'nothing-sounds' }

const DITHER_SEED = 24

/** 24-bit WAV, stereo, with triangular dither; `parts` joined are the file. Loudness is measured before the rate is converted. */
export async function renderDelivery(options: Omit<RenderOptions, 'sink'> & { sampleRateHz: 44_100 | 48_000 }): Promise<DeliveryResult> {
  const { sampleRateHz, plan } = options
  const parts: Uint8Array<ArrayBuffer>[] = []
  const dither = makeRandom(DITHER_SEED)
  const meter = new LoudnessMeter(2)
  const resampler = sampleRateHz === SAMPLE_RATE_HZ ? null : new Resampler(SAMPLE_RATE_HZ, sampleRateHz, 2)
  let frames = 0
  const write = (planes: Planar) => {
    frames += planes[0].length
    parts.push(encodeSamples(planes, 'pcm24', dither))
  }
  const rendered = await renderOffline({
    ...options,
    sink: planes => {
      meter.push(planes)
      write(resampler?.push(planes) ?? planes)
    },
  })
  if (rendered === null) return { kind: 'cancelled' }
  if (rendered === 0) return { kind: 'nothing-sounds' }
  if (resampler) write(resampler.flush())
  parts.unshift(encodeWavHeader({ frames, channels: 2, sampleRateHz, encoding: 'pcm24' }))
  const loudness = meter.read()
  return { kind: 'delivered', parts, report: { seconds: frames / sampleRateHz, sampleRateHz, loudness, ceilingTouched: loudness.samplePeakDbfs > 20 * Math.log10(plan.ceiling) - 0.01 } }
}
