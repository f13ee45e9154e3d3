/** Recipes with a name for what one hears, and colours for a stretch: rows of steps with their settings. */
import { usualSettings } from '../effects/catalogue'
import type { RecipeStep, StepId } from '../song/mix-schema'
import type { Role } from '../song/schema'

export const RECIPE_NAMES = ['close', 'soft', 'bright', 'worn'] as const
/** Of the whole mix. */
export const WHOLE_NAMES = ['gentle', 'warm'] as const
export type RecipeName = (typeof RECIPE_NAMES)[number] | (typeof WHOLE_NAMES)[number]
export const COLOUR_NAMES = ['radio', 'telephone', 'far away', 'wash', 'broken', 'whisper-close'] as const
export type ColourName = (typeof COLOUR_NAMES)[number]

type Kind = RecipeStep['kind']
/** What differs from a step's usual settings. */
type Row = readonly (readonly [kind: Kind, settings: Record<string, number>])[]

/** Of a lead, the last two of the whole mix. All set by ear on the practice singer and the labelled voices. */
const RECIPES: Record<RecipeName, Row> = {
  // A voice right at the ear: peaks caught fast, phrases held slowly, a little body and air.
  close: [
    ['low-cut', { cutoffHz: 80 }],
    ['dynamic-band', { frequencyHz: 350, thresholdDecibels: -28, rangeDecibels: 5 }],
    ['compressor', { thresholdDecibels: -16, ratio: 4, attackSeconds: 0.002, releaseSeconds: 0.06, makeupDecibels: 1, kneeDecibels: 4 }],
    ['compressor', { thresholdDecibels: -26, ratio: 2.5, attackSeconds: 0.03, releaseSeconds: 0.35, makeupDecibels: 5, kneeDecibels: 10 }],
    ['de-esser', { thresholdDecibels: -30, rangeDecibels: 8 }],
    ['air', { cornerHz: 9_000, gainDecibels: 3 }],
  ],
  // Nothing sticks out: rounded above, lightly held.
  soft: [
    ['low-cut', { cutoffHz: 90 }],
    ['compressor', { thresholdDecibels: -24, ratio: 2, attackSeconds: 0.015, releaseSeconds: 0.25, makeupDecibels: 3, kneeDecibels: 12 }],
    [
      'equaliser',
      { lowBellHz: 250, lowBellDecibels: 1.5, highBellHz: 3_200, highBellDecibels: -2, highBellQ: 0.8, highShelfHz: 9_000, highShelfDecibels: -1.5 },
    ],
    ['de-esser', { thresholdDecibels: -34, rangeDecibels: 10 }],
  ],
  // In front of a full beat: thinner below, present above.
  bright: [
    ['low-cut', { cutoffHz: 120 }],
    ['compressor', { thresholdDecibels: -22, ratio: 3.5, attackSeconds: 0.006, releaseSeconds: 0.12, makeupDecibels: 4 }],
    ['equaliser', { lowBellHz: 300, lowBellDecibels: -2.5, lowBellQ: 1, highBellHz: 4_000, highBellDecibels: 2.5, highBellQ: 0.8 }],
    ['de-esser', { thresholdDecibels: -30, rangeDecibels: 10 }],
    ['air', { cornerHz: 10_000, gainDecibels: 4 }],
  ],
  // Like from an old tape: driven, without its outermost lows and highs.
  worn: [
    ['low-cut', { cutoffHz: 140 }],
    ['compressor', { thresholdDecibels: -24, ratio: 4, attackSeconds: 0.004, releaseSeconds: 0.1, makeupDecibels: 4 }],
    ['saturation', { driveDecibels: 12, amountFraction: 0.7, outputDecibels: 1.5 }],
    ['high-cut', { cutoffHz: 9_000 }],
  ],
  // Voices and beat held together by a decibel or two, a little open above.
  gentle: [
    ['low-cut', { cutoffHz: 25 }],
    ['compressor', { thresholdDecibels: -18, ratio: 1.5, attackSeconds: 0.03, releaseSeconds: 0.25, makeupDecibels: 1, kneeDecibels: 12 }],
    ['air', { cornerHz: 12_000, gainDecibels: 1 }],
  ],
  // The same, rounded: a fuller bottom, tops that give way.
  warm: [
    ['low-cut', { cutoffHz: 25 }],
    ['compressor', { thresholdDecibels: -16, ratio: 1.4, attackSeconds: 0.03, releaseSeconds: 0.25, makeupDecibels: 1, kneeDecibels: 12 }],
    ['equaliser', { lowBellHz: 120, lowBellDecibels: 1, lowBellQ: 0.7, highShelfHz: 9_000, highShelfDecibels: -0.5 }],
    ['saturation', { driveDecibels: 2, amountFraction: 0.25 }],
  ],
}

const COLOURS: Record<ColourName, Row> = {
  radio: [
    ['low-cut', { cutoffHz: 300, slopeDecibels: 24 }],
    ['high-cut', { cutoffHz: 5_000, slopeDecibels: 24 }],
    ['compressor', { thresholdDecibels: -30, ratio: 8, attackSeconds: 0.002, releaseSeconds: 0.08, makeupDecibels: 8 }],
    ['saturation', { driveDecibels: 9, amountFraction: 0.6, outputDecibels: 1 }],
  ],
  telephone: [
    ['low-cut', { cutoffHz: 400, slopeDecibels: 24 }],
    ['high-cut', { cutoffHz: 3_400, slopeDecibels: 24 }],
    ['equaliser', { highBellHz: 1_600, highBellDecibels: 5, highBellQ: 0.9 }],
    ['saturation', { driveDecibels: 14, amountFraction: 0.5, outputDecibels: 2 }],
  ],
  'far away': [
    ['high-cut', { cutoffHz: 3_500 }],
    ['low-cut', { cutoffHz: 200 }],
    ['wash', { decaySeconds: 2, dampingHz: 3_500, mixFraction: 0.65 }],
  ],
  wash: [
    ['low-cut', { cutoffHz: 200 }],
    ['wash', { decaySeconds: 8, dampingHz: 6_000, mixFraction: 0.85 }],
  ],
  broken: [
    ['compressor', { thresholdDecibels: -36, ratio: 10, attackSeconds: 0.001, releaseSeconds: 0.05, makeupDecibels: 12 }],
    ['saturation', { driveDecibels: 30, amountFraction: 1, outputDecibels: 18 }],
    ['high-cut', { cutoffHz: 7_000 }],
    ['limiter', { ceilingDbfs: -9 }],
  ],
  'whisper-close': [
    ['low-cut', { cutoffHz: 160 }],
    ['compressor', { thresholdDecibels: -40, ratio: 6, attackSeconds: 0.002, releaseSeconds: 0.12, makeupDecibels: 12, kneeDecibels: 12 }],
    ['de-esser', { thresholdDecibels: -36, rangeDecibels: 12 }],
    ['air', { cornerHz: 7_000, gainDecibels: 6 }],
  ],
}

/** A stack is compressed half as hard as the lead, stays out of its low end, and is no brighter than it. */
function forRole(row: Row, role: Role): Row {
  if (role === 'lead' || role === 'ad-lib' || role === 'spare') return row
  return row.map(([kind, settings]) => {
    if (kind === 'compressor') return [kind, { ...settings, ratio: 1 + (settings.ratio - 1) / 2, makeupDecibels: settings.makeupDecibels / 2 }] as const
    if (kind === 'low-cut') return [kind, { ...settings, cutoffHz: settings.cutoffHz + 60 }] as const
    if (kind === 'air') return [kind, { ...settings, gainDecibels: settings.gainDecibels / 2 }] as const
    return [kind, settings] as const
  })
}

const stepsOfRow = (row: Row, makeId: () => string): RecipeStep[] =>
  row.map(([kind, settings]) => ({ id: makeId() as StepId, kind, enabled: true, ...usualSettings(kind), ...settings }) as RecipeStep)

/** @param role Of the voices that it is for; null: all together, which are taken as a lead is. */
export function stepsOfNamed(name: RecipeName, role: Role | null, makeId: () => string): RecipeStep[] {
  return stepsOfRow(forRole(RECIPES[name], role ?? 'lead'), makeId)
}

export function stepsOfColour(name: ColourName, makeId: () => string): RecipeStep[] {
  return stepsOfRow(COLOURS[name], makeId)
}
