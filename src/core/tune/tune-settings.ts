/** How a voice is tuned: the numbers, and four steps in words from barely to hard. */

export interface TuneSettings {
  /** Within so long a note is drawn to its rung: what it does faster than that is kept. 0: at once. */
  speedMilliseconds: number
  /** Share of the way that is gone, 0..1. */
  amount: number
  /** A note that is nearer to its rung is left as it was sung. */
  toleranceCents: number
  /** Shares of the vibrato and of the glides into, between and out of notes that stay, 0..1. */
  vibratoKept: number
  glidesKept: number
  /** Formants up or down, whatever the pitch does: a smaller or a larger throat. */
  throatSemitones: number
}

export const TUNE_RANGES = {
  speedMilliseconds: { min: 0, max: 400 },
  amount: { min: 0, max: 1 },
  toleranceCents: { min: 0, max: 50 },
  vibratoKept: { min: 0, max: 1 },
  glidesKept: { min: 0, max: 1 },
  throatSemitones: { min: -6, max: 6 },
} as const satisfies Record<keyof TuneSettings, { min: number; max: number }>

export const TUNE_STEPS = {
  barely: { speedMilliseconds: 200, amount: 0.6, toleranceCents: 20, vibratoKept: 1, glidesKept: 1, throatSemitones: 0 },
  gently: { speedMilliseconds: 120, amount: 0.85, toleranceCents: 12, vibratoKept: 1, glidesKept: 0.9, throatSemitones: 0 },
  firmly: { speedMilliseconds: 40, amount: 1, toleranceCents: 4, vibratoKept: 0.8, glidesKept: 0.6, throatSemitones: 0 },
  hard: { speedMilliseconds: 0, amount: 1, toleranceCents: 0, vibratoKept: 0, glidesKept: 0, throatSemitones: 0 },
} as const satisfies Record<string, TuneSettings>
export type TuneStep = keyof typeof TUNE_STEPS

/** Which step these numbers are; null for the singer's own. The throat is no part of it. */
export function stepOf(settings: TuneSettings): TuneStep | null {
  const steps = Object.keys(TUNE_STEPS) as TuneStep[]
  const alike = (step: TuneStep) =>
    (Object.keys(TUNE_RANGES) as (keyof TuneSettings)[]).every(key => key === 'throatSemitones' || TUNE_STEPS[step][key] === settings[key])
  return steps.find(alike) ?? null
}
