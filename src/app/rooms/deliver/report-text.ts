/** What is told of a finished file. */
import type { DeliveryReport } from '../../../core/deliver/delivery'
import type { DeliveryFormat } from '../../../core/deliver/encoders'
import { formatDecibels, formatLevel } from '../../shared/format'

const DETAIL: { [K in DeliveryFormat['kind']]: (format: Extract<DeliveryFormat, { kind: K }>) => string } = {
  wav: ({ bits }) => `${bits} bits`,
  flac: () => 'FLAC of 24 bits',
  mp3: ({ kbps, varies }) => `MP3 of ${varies ? 'about ' : ''}${kbps} kbps`,
  aac: ({ kbps }) => `AAC of ${kbps} kbps`,
  opus: ({ kbps }) => `Opus of ${kbps} kbps`,
}

type Report = DeliveryReport & { renderSeconds: number }

/** What one looks at first. */
export function shortReport({ seconds, loudness, aimed }: Report): string[] {
  return [
    `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`,
    formatLevel(loudness.integratedLufs, 'LUFS'),
    `true peak ${formatLevel(loudness.truePeakDbtp, 'dBTP')}`,
    ...(aimed ? [`made ${formatDecibels(aimed.gainDecibels, -Infinity)} louder, peaks held back by ${aimed.heldDecibels.toFixed(1)} dB at most`] : []),
  ]
}

/** All else. */
export function longReport({
  seconds,
  loudness,
  renderSeconds,
  ceilingTouched,
  format,
  aimed,
  encoded,
  rangeLu,
  shortTermMaxLufs,
  monoLossDecibels,
  dcOffset,
}: Report): string[] {
  return [
    `${format.sampleRateHz / 1_000} kHz, ${DETAIL[format.kind](format as never)}`,
    `peak ${formatLevel(loudness.samplePeakDbfs, 'dBFS')}`,
    `loudest 3 s ${formatLevel(shortTermMaxLufs, 'LUFS')}`,
    `range ${rangeLu.toFixed(1)} LU`,
    `${Math.max(0, -monoLossDecibels).toFixed(1)} dB lost in mono`,
    `offset ${(100 * dcOffset).toFixed(2)} %`,
    ...(encoded ? [`played again ${formatLevel(encoded.integratedLufs, 'LUFS')}, true peak ${formatLevel(encoded.truePeakDbtp, 'dBTP')}`] : []),
    ...(ceilingTouched && !aimed ? ['the ceiling was touched: stems no longer sum to it exactly'] : []),
    `made ${(seconds / renderSeconds).toFixed(0)} times faster than it plays`,
  ]
}
