/** What the settings of effects are called, and how their numbers are shown. */
import { describeEffect, type EffectFacts, type EffectKind } from '../../../core/effects/catalogue'
import type { StepKind } from '../../../core/mix/recipes'
import type { SpaceKind } from '../../../core/mix/spaces'

export const STEP_NAMES: Record<StepKind, string> = {
  'low-cut': 'Low cut',
  gate: 'Gate',
  'de-esser': 'De-esser',
  compressor: 'Compressor',
  equaliser: 'Equaliser',
  saturation: 'Saturation',
  air: 'Air',
  'high-cut': 'High cut',
  'dynamic-band': 'Dynamic band',
  wash: 'Wash',
  width: 'Width',
  limiter: 'Limiter',
}

export const SPACE_NAMES: Record<SpaceKind, string> = { plate: 'Plate', room: 'Room', hall: 'Hall', echo: 'Echo', press: 'Pressed' }

type Words = Record<string, string>

const REVERB: Words = {
  decaySeconds: 'Decay',
  preDelaySeconds: 'Pre-delay',
  dampingHz: 'Bright to',
  lowCutHz: 'Cuts below',
  widthFraction: 'Width',
  sizeFraction: 'Size',
}
const WORDS: Partial<Record<EffectKind, Words>> = {
  'low-cut': { cutoffHz: 'Cuts below', slopeDecibels: 'An octave' },
  'high-cut': { cutoffHz: 'Cuts above', slopeDecibels: 'An octave' },
  'dynamic-band': {
    frequencyHz: 'Round',
    bandQ: 'Its width',
    thresholdDecibels: 'Louder than',
    rangeDecibels: 'At most by',
    attackSeconds: 'Comes in',
    releaseSeconds: 'Goes in',
  },
  wash: { decaySeconds: 'Decay', dampingHz: 'Bright to', mixFraction: 'How much' },
  width: { widthFraction: 'Width', middleBelowHz: 'Middle below' },
  limiter: { ceilingDbfs: 'Never above' },
  gate: { thresholdDecibels: 'Opens at', rangeDecibels: 'Lowers by', attackSeconds: 'Opens in', holdSeconds: 'Stays open', releaseSeconds: 'Closes in' },
  'de-esser': { frequencyHz: 'Esses above', thresholdDecibels: 'Louder than', rangeDecibels: 'At most by' },
  compressor: {
    thresholdDecibels: 'Threshold',
    ratio: 'Ratio',
    attackSeconds: 'Attack',
    releaseSeconds: 'Release',
    makeupDecibels: 'Make-up',
    kneeDecibels: 'Knee',
    mixFraction: 'Mixed in',
  },
  equaliser: {
    lowShelfHz: 'Lows below',
    lowShelfDecibels: 'Lows',
    lowBellHz: 'Low bell at',
    lowBellDecibels: 'Low bell',
    lowBellQ: 'Its width',
    highBellHz: 'High bell at',
    highBellDecibels: 'High bell',
    highBellQ: 'Its width',
    highShelfHz: 'Highs above',
    highShelfDecibels: 'Highs',
  },
  saturation: { driveDecibels: 'Drive', amountFraction: 'Amount', outputDecibels: 'Output' },
  air: { cornerHz: 'Air from', gainDecibels: 'Air' },
  plate: REVERB,
  room: REVERB,
  hall: REVERB,
  press: {
    thresholdDecibels: 'Pressed from',
    ratio: 'Ratio',
    attackSeconds: 'Attack',
    releaseSeconds: 'Release',
    makeupDecibels: 'Make-up',
    kneeDecibels: 'Knee',
  },
  echo: {
    delaySeconds: 'Time',
    feedbackFraction: 'Goes on',
    highCutHz: 'Bright to',
    lowCutHz: 'Cuts below',
    crossFraction: 'Side to side',
    wornFraction: 'Worn',
  },
}

export interface ShownSetting {
  name: string
  label: string
  unit: string
  /** Shown = kept * factor. */
  factor: number
  digits: number
  min: number
  max: number
  step: number
}

/** The settings of a kind in the order in which they are shown. */
export function shownSettings(kind: EffectKind): ShownSetting[] {
  return describeEffect(kind).settings.map(setting => {
    const { factor, unit, digits } = shownUnit(setting)
    const [min, max] = [setting.min * factor, setting.max * factor]
    return {
      name: setting.name,
      label: WORDS[kind]?.[setting.name] ?? setting.name,
      unit,
      factor,
      digits,
      min,
      max,
      step: setting.multipleOf === null ? stepOf(max - min) : factor * setting.multipleOf,
    }
  })
}

function shownUnit({ name, unit, max }: EffectFacts['settings'][number]): { factor: number; unit: string; digits: number } {
  if (unit === 's') return max > 2 ? { factor: 1, unit: 's', digits: 2 } : { factor: 1_000, unit: 'ms', digits: 1 }
  if (unit === 'fraction') return { factor: 100, unit: '%', digits: 0 }
  if (unit === 'Hz') return { factor: 1, unit: 'Hz', digits: 0 }
  if (name === 'ratio') return { factor: 1, unit: ': 1', digits: 1 }
  return { factor: 1, unit: unit === 'factor' ? 'Q' : 'dB', digits: unit === 'factor' ? 2 : 1 }
}

/** About two hundred steps from end to end, each a round number. */
function stepOf(range: number): number {
  const rough = range / 200
  const power = 10 ** Math.floor(Math.log10(rough))
  return [1, 2, 5, 10].map(factor => factor * power).find(step => step >= rough) ?? rough
}

/** A step in a few signs: its one most telling number. */
export function stepNote(kind: StepKind, settings: Record<string, number>): string {
  const plain = (name: string, unit: string, digits = 0) => `${settings[name]!.toFixed(digits)}${unit}`
  switch (kind) {
    case 'low-cut':
    case 'high-cut':
      return plain('cutoffHz', ' Hz')
    case 'dynamic-band':
      return plain('frequencyHz', ' Hz')
    case 'wash':
      return `${plain('decaySeconds', ' s', 1)}, ${Math.round(100 * settings.mixFraction!)} %`
    case 'width':
      return `${Math.round(100 * settings.widthFraction!)} %`
    case 'limiter':
      return plain('ceilingDbfs', ' dBFS', 1)
    case 'gate':
      return plain('thresholdDecibels', ' dB')
    case 'de-esser':
      return `${(settings.frequencyHz! / 1_000).toFixed(1)} kHz`
    case 'compressor':
      return `${plain('ratio', ':1', 1)}, ${plain('thresholdDecibels', '')}`
    case 'equaliser':
      return 'four bands'
    case 'saturation':
      return `${plain('driveDecibels', ' dB')}, ${Math.round(100 * settings.amountFraction!)} %`
    case 'air':
      return `${settings.gainDecibels! > 0 ? '+' : ''}${plain('gainDecibels', ' dB', 1)}`
  }
}
