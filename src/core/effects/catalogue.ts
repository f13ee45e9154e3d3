/** Every kind of effect there is: its settings with their units and ranges, the usual ones, and how it is made. */
import { z } from 'zod'
import { decibelsToGain } from '../audio/decibels'
import { Ceiling, CEILING_LATENCY_FRAMES } from './ceiling'
import { makeEffect, type Step } from './chain'
import { CompressorSettingsSchema, USUAL_COMPRESSOR } from './compressor'
import { DeEsserSettingsSchema, USUAL_DE_ESSER } from './de-esser'
import { Echo, EchoSettingsSchema, USUAL_ECHO } from './echo'
import { DynamicBandSettingsSchema, USUAL_DYNAMIC_BAND } from './dynamic-band'
import type { Effect } from './effect'
import { EqualiserSettingsSchema, FLAT_EQUALISER } from './equaliser'
import { AirSettingsSchema, HighCutSettingsSchema, LowCutSettingsSchema, USUAL_AIR, USUAL_HIGH_CUT, USUAL_LOW_CUT } from './filters'
import { GateSettingsSchema, USUAL_GATE } from './gate'
import { LimiterSettingsSchema, USUAL_LIMITER } from './limiter'
import { Hall, Plate, ReverbSettingsSchema, Room, USUAL_HALL, USUAL_PLATE, USUAL_ROOM } from './reverb'
import { Press, PressSettingsSchema, USUAL_PRESS } from './press'
import { SaturationSettingsSchema, USUAL_SATURATION } from './saturation'
import { Answer } from './space'
import { USUAL_WASH, WashSettingsSchema } from './wash'
import { USUAL_WIDTH, WidthSettingsSchema } from './width'

type Settings = Record<string, number>

interface Entry {
  /** A space gives its answer alone. */
  family: 'step' | 'space' | 'output'
  schema: z.ZodObject
  usual: Settings
  make: (settings: Settings) => Effect<Settings>
}

/** @param S Its settings; checked by its schema before it is made. */
function entry<S extends Settings>(family: Entry['family'], schema: z.ZodObject, usual: S, make: (settings: S) => Effect<S>): Entry {
  return { family, schema, usual, make: make as unknown as Entry['make'] }
}

function step<K extends Step['kind']>(kind: K, schema: z.ZodObject, usual: Omit<Extract<Step, { kind: K }>, 'kind'>): Entry {
  return entry('step', schema, usual as Settings, settings => makeEffect({ kind, ...settings } as unknown as Step) as unknown as Effect<Settings>)
}

const CeilingSettingsSchema = z.strictObject({ ceilingDbfs: z.number().min(-12).max(0) })

/** The ceiling takes a factor; here it has its setting in decibels, as in a song. */
function makeCeiling({ ceilingDbfs }: z.infer<typeof CeilingSettingsSchema>): Effect<z.infer<typeof CeilingSettingsSchema>> {
  const ceiling = new Ceiling(decibelsToGain(ceilingDbfs))
  return {
    latencyFrames: CEILING_LATENCY_FRAMES,
    set: settings => ceiling.set(decibelsToGain(settings.ceilingDbfs)),
    process: (left, right) => ceiling.process(left, right),
    reset: () => ceiling.reset(),
  }
}

const CATALOGUE = {
  'low-cut': step('low-cut', LowCutSettingsSchema, USUAL_LOW_CUT),
  gate: step('gate', GateSettingsSchema, USUAL_GATE),
  'de-esser': step('de-esser', DeEsserSettingsSchema, USUAL_DE_ESSER),
  compressor: step('compressor', CompressorSettingsSchema, USUAL_COMPRESSOR),
  equaliser: step('equaliser', EqualiserSettingsSchema, FLAT_EQUALISER),
  saturation: step('saturation', SaturationSettingsSchema, USUAL_SATURATION),
  air: step('air', AirSettingsSchema, USUAL_AIR),
  'high-cut': step('high-cut', HighCutSettingsSchema, USUAL_HIGH_CUT),
  'dynamic-band': step('dynamic-band', DynamicBandSettingsSchema, USUAL_DYNAMIC_BAND),
  wash: step('wash', WashSettingsSchema, USUAL_WASH),
  width: step('width', WidthSettingsSchema, USUAL_WIDTH),
  limiter: step('limiter', LimiterSettingsSchema, USUAL_LIMITER),
  plate: entry('space', ReverbSettingsSchema, USUAL_PLATE, settings => new Answer(new Plate(settings))),
  room: entry('space', ReverbSettingsSchema, USUAL_ROOM, settings => new Answer(new Room(settings))),
  hall: entry('space', ReverbSettingsSchema, USUAL_HALL, settings => new Answer(new Hall(settings))),
  echo: entry('space', EchoSettingsSchema, USUAL_ECHO, settings => new Answer(new Echo(settings))),
  press: entry('space', PressSettingsSchema, USUAL_PRESS, settings => new Answer(new Press(settings))),
  ceiling: entry('output', CeilingSettingsSchema, { ceilingDbfs: -1 }, makeCeiling),
} as const satisfies Record<string, Entry>

export type EffectKind = keyof typeof CATALOGUE
export const EFFECT_KINDS = Object.keys(CATALOGUE) as EffectKind[]

/** The settings that a kind has until someone decides otherwise. */
export function usualSettings(kind: EffectKind): Settings {
  return CATALOGUE[kind].usual as Settings
}

export interface EffectFacts {
  kind: EffectKind
  family: Entry['family']
  latencyFrames: number
  settings: {
    name: string
    unit: string
    min: number
    max: number
    usual: number
    /** Only whole multiples of it; null: any. */
    multipleOf: number | null
  }[]
}

export function describeEffect(kind: EffectKind): EffectFacts {
  const { family, schema, usual, make } = CATALOGUE[kind]
  return {
    kind,
    family,
    latencyFrames: make(usual).latencyFrames,
    settings: Object.entries(schema.shape).map(([name, type]) => {
      const { minValue: min, maxValue: max } = type as z.ZodNumber
      const multipleOf = multipleOfIn(type as z.ZodNumber)
      return { name, unit: unitOf(name), min: min!, max: max!, usual: (usual as Settings)[name], multipleOf }
    }),
  }
}

function multipleOfIn(type: z.ZodNumber): number | null {
  const defs = (type.def.checks ?? []).map(check => check._zod.def as { check: string; value?: number })
  return defs.find(({ check }) => check === 'multiple_of')?.value ?? null
}

/** Names carry their units. */
function unitOf(name: string): string {
  const [, unit] = /(Hz|Decibels|Dbfs|Seconds|Fraction)$/.exec(name) ?? []
  return { Hz: 'Hz', Decibels: 'dB', Dbfs: 'dBFS', Seconds: 's', Fraction: 'fraction' }[unit ?? ''] ?? 'factor'
}

export type MadeEffect = { ok: true; effect: Effect<Settings>; settings: Settings } | { ok: false; problems: { setting: string; expected: string }[] }

/** @param settings Of anything: those that are not given are the usual ones; unknown ones and those out of range are refused. */
export function makeEffectOf(kind: EffectKind, settings: unknown): MadeEffect {
  const { schema, usual, make } = CATALOGUE[kind]
  const given = z.record(z.string(), z.unknown()).safeParse(settings)
  const parsed = schema.safeParse(given.success ? { ...usual, ...given.data } : settings)
  if (!parsed.success) return { ok: false, problems: parsed.error.issues.map(({ path, message }) => ({ setting: path.join('.'), expected: message })) }
  return { ok: true, effect: make(parsed.data as Settings), settings: parsed.data as Settings }
}
