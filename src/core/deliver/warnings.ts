/** What may be wrong with a finished file, in words. */
import type { DeliveryReport } from './delivery'

/** What most services play songs at; louder ones are turned down. */
const STREAMED_LUFS = -14
/** By less than this nobody notices. */
const NOTICED_LU = 1
/** About -60 dB: a stronger offset takes headroom and clicks where the file begins. */
const MOST_OFFSET = 1e-3
const MOST_MONO_LOSS_DECIBELS = 6

export function warningsOf(report: Pick<DeliveryReport, 'loudness' | 'encoded' | 'clippedSamples' | 'dcOffset' | 'monoLossDecibels'>): string[] {
  const { loudness, encoded, clippedSamples, dcOffset, monoLossDecibels } = report
  const warnings: string[] = []
  const over = loudness.integratedLufs - STREAMED_LUFS
  if (over > NOTICED_LU) warnings.push(`Streaming services will turn it down by about ${over.toFixed(0)} dB.`)
  if (clippedSamples > 0) warnings.push(`${clippedSamples} samples are clipped: lower the ceiling or the mix.`)
  if (encoded && encoded.truePeakDbtp > 0) {
    const lower = Math.ceil(10 * encoded.truePeakDbtp + 1) / 10
    warnings.push(`Encoded, its peaks reach ${encoded.truePeakDbtp.toFixed(1)} dB over full scale and will clip: aim ${lower.toFixed(1)} dB lower.`)
  }
  if (dcOffset > MOST_OFFSET) warnings.push(`It leans to one side of zero by ${(100 * dcOffset).toFixed(1)} % of full scale: a low cut mends that.`)
  if (monoLossDecibels < -MOST_MONO_LOSS_DECIBELS) warnings.push(`On one loudspeaker it loses ${(-monoLossDecibels).toFixed(0)} dB: voices cancel each other.`)
  return warnings
}
