/** A step of a recipe as a small picture: over frequency for what filters, out over in for what follows the level. */
import { line } from 'd3-shape'
import { gainToDecibels } from '../../../core/audio/decibels'
import { bell, highPass, highShelf, lowPass, lowShelf, responseDecibels } from '../../../core/effects/biquad'
import { compressedDecibels } from '../../../core/effects/compressor'
import { cutSections } from '../../../core/effects/filters'
import type { StepKind } from '../../../core/mix/recipes'

const WIDTH = 100
const HEIGHT = 60

interface Curve {
  low: number
  high: number
  /** @param x 0..1 from left to right. */
  at: (x: number) => number
}

/** 20 Hz at the left, 20 kHz at the right. */
const hzAt = (x: number) => 20 * 1_000 ** x
/** -60 dB at the left, 0 dB at the right. */
const inputAt = (x: number) => 60 * x - 60

function cutAt(shape: typeof highPass, { cutoffHz, slopeDecibels }: Record<string, number>, hz: number): number {
  return cutSections(shape, { cutoffHz: cutoffHz!, slopeDecibels: slopeDecibels! }).reduce((sum, section) => sum + responseDecibels(section, hz), 0)
}

function curveOf(kind: StepKind, s: Record<string, number>): Curve {
  switch (kind) {
    case 'low-cut':
      return { low: -24, high: 6, at: x => cutAt(highPass, s, hzAt(x)) }
    case 'high-cut':
      return { low: -24, high: 6, at: x => cutAt(lowPass, s, hzAt(x)) }
    case 'dynamic-band':
      return { low: -18, high: 6, at: x => responseDecibels(bell(s.frequencyHz!, -s.rangeDecibels!, s.bandQ!), hzAt(x)) }
    case 'wash':
      // Over two seconds and a half.
      return { low: -60, high: 0, at: x => gainToDecibels(Math.max(1e-3, s.mixFraction!)) - (150 * x) / s.decaySeconds! }
    case 'width':
      return { low: 0, high: 2, at: x => (hzAt(x) < s.middleBelowHz! ? 0 : s.widthFraction!) }
    case 'limiter':
      return { low: -40, high: 0, at: x => Math.min(40 * x - 40, s.ceilingDbfs!) }
    case 'air':
      return { low: -12, high: 12, at: x => responseDecibels(highShelf(s.cornerHz!, s.gainDecibels!), hzAt(x)) }
    case 'equaliser': {
      const bands = [
        lowShelf(s.lowShelfHz!, s.lowShelfDecibels!),
        bell(s.lowBellHz!, s.lowBellDecibels!, s.lowBellQ!),
        bell(s.highBellHz!, s.highBellDecibels!, s.highBellQ!),
        highShelf(s.highShelfHz!, s.highShelfDecibels!),
      ]
      return { low: -12, high: 12, at: x => bands.reduce((sum, band) => sum + responseDecibels(band, hzAt(x)), 0) }
    }
    case 'de-esser':
      return { low: -24, high: 6, at: x => (hzAt(x) > s.frequencyHz! ? -s.rangeDecibels! : 0) }
    case 'gate':
      return { low: -60, high: 0, at: x => (inputAt(x) < s.thresholdDecibels! ? inputAt(x) - s.rangeDecibels! : inputAt(x)) }
    case 'compressor':
      return { low: -60, high: 0, at: x => compressedDecibels(inputAt(x), s.thresholdDecibels!, s.ratio!, s.kneeDecibels!) }
    case 'saturation': {
      const drive = 10 ** (s.driveDecibels! / 20)
      const bent = (level: number) => (1 - s.amountFraction!) * level + (s.amountFraction! * Math.tanh(drive * level)) / drive
      return { low: -40, high: 0, at: x => gainToDecibels(bent(10 ** ((40 * x - 40) / 20))) }
    }
  }
}

export function StepPicture({ kind, settings, height = 44 }: { kind: StepKind; settings: Record<string, number>; height?: number }) {
  const { low, high, at } = curveOf(kind, settings)
  const y = (value: number) => HEIGHT - ((Math.max(low, Math.min(high, value)) - low) / (high - low)) * HEIGHT
  const points = Array.from({ length: 61 }, (_, i): [number, number] => [(i / 60) * WIDTH, y(at(i / 60))])
  return (
    <svg viewBox={`0 -2 ${WIDTH} ${HEIGHT + 4}`} width="100%" height={height} preserveAspectRatio="none" aria-hidden>
      <path d={line()(points) ?? ''} fill="none" stroke="var(--chakra-colors-brand)" strokeWidth={2} vectorEffect="non-scaling-stroke" />
    </svg>
  )
}
