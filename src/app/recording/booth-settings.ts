/** How the Booth is set up in this browser: remembered from session to session, no part of any song. */
import { z } from 'zod'
import { create } from 'zustand'
import { ROUND_TRIP_RANGE_FRAMES, USUAL_INTERFACE } from '../../core/rehearsal/simulated-interface'
import { keepSetting, readSetting } from '../../storage/settings'

const level = z.number().min(-60).max(12)

const BoothSettingsSchema = z.object({
  input: z.union([z.object({ kind: z.literal('microphone'), deviceId: z.string().nullable() }), z.object({ kind: z.literal('singer') })]).nullable(),
  /** The channel taken of each input, by its name. */
  channels: z.record(z.string(), z.number().int().min(0).max(31)),
  outputId: z.string().nullable(),
  /** Outputs, by name, of which the singer said that they are headphones. */
  headphones: z.array(z.string()).max(50),
  /** How the singer hears themself: through the interface, through the app, not at all. */
  hearMe: z.enum(['direct', 'app', 'off']),
  decibels: z.object({ beat: level, comp: level, others: level, me: level, guide: level.default(-3) }),
  /** How a part sounds that is to be sung. */
  guide: z.enum(['voice', 'tone', 'off']),
  room: z.number().min(-60).max(0),
  echo: z.number().min(-60).max(0),
  compress: z.boolean(),
  /** Heard in tune with the song's key, in the headphones only. */
  tune: z.boolean(),
  /** What sounds while recording. */
  surround: z.enum(['beat', 'comp', 'lead', 'stack']),
  click: z.enum(['always', 'count-in', 'never']),
  accentDecibels: z.number().min(0).max(12),
  countInBars: z.number().int().min(0).max(2),
  preRollBars: z.number().int().min(0).max(4),
  startOnSound: z.boolean(),
  startThresholdDbfs: z.number().min(-60).max(0),
  runOn: z.boolean(),
  wordsSize: z.number().min(28).max(120),
  simulated: z.object({
    roundTripFrames: z.number().int().min(ROUND_TRIP_RANGE_FRAMES.min).max(ROUND_TRIP_RANGE_FRAMES.max),
    leakDecibels: z.number().min(-100).max(0),
    noiseDbfs: z.number().min(-120).max(-20),
    humDbfs: z.number().min(-120).max(-20),
  }),
})
export type BoothSettings = z.infer<typeof BoothSettingsSchema>

const FIRST: BoothSettings = {
  input: null,
  channels: {},
  outputId: null,
  headphones: [],
  hearMe: 'direct',
  decibels: { beat: 0, comp: 0, others: -3, me: -6, guide: -3 },
  guide: 'voice',
  room: -18,
  echo: -60,
  compress: true,
  tune: false,
  surround: 'stack',
  click: 'count-in',
  accentDecibels: 3,
  countInBars: 1,
  preRollBars: 0,
  startOnSound: false,
  startThresholdDbfs: -40,
  runOn: false,
  wordsSize: 44,
  simulated: USUAL_INTERFACE,
}

const KEY = 'booth'

export const useBoothSettings = create<BoothSettings>(() => FIRST)

/** Settles once what was remembered is in place; an unreadable or partial memory falls back to the usual. */
export const boothSettingsRead = readSetting(KEY, BoothSettingsSchema.partial()).then(
  stored => useBoothSettings.setState((stored ?? {}) as Partial<BoothSettings>),
  () => {},
)

/** Changes settings and remembers them. */
export function setBooth(change: Partial<BoothSettings>): void {
  useBoothSettings.setState(change)
  void keepSetting(KEY, useBoothSettings.getState()).catch(() => {})
}
