/** How far a voice is tuned, in four words from barely to hard. */
import type { Role } from '../song/schema'
import { TUNE_RANGES, type LayerTune, type TuneSettings } from '../song/tidy-schema'

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

/** A layer tuned with these numbers, to what it was tuned to before; to the key, if it was not. */
export function layerTune(settings: TuneSettings, before: LayerTune | null = null): LayerTune {
  return { ...settings, to: before?.to ?? { kind: 'key' }, lines: before?.lines ?? [] }
}

/** The numbers alone. */
export function settingsOf({ to: _, lines: __, ...settings }: LayerTune): TuneSettings {
  return settings
}

/** With what a role begins: stacks and ad-libs harder than the lead, which they are to fit. */
export function usualStep(role: Role): TuneStep {
  return role === 'lead' ? 'gently' : 'firmly'
}
