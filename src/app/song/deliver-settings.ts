/** What files are to be like: remembered from song to song. */
import { create } from 'zustand'
import { z } from 'zod'
import { AS_MIXED } from '../../core/deliver/delivery-shape'
import { DeliveryFormatSchema, DeliveryShapeSchema, LoudnessAimSchema } from '../../core/deliver/targets'
import { USUAL_NAME_PATTERN } from '../../core/files/names'
import { keepSetting, readSetting } from '../../storage/settings'

export const YEAR_RANGE = { min: 1_900, max: 2_200 } as const
const words = z.string().max(120)
const SettingsSchema = z.strictObject({
  format: DeliveryFormatSchema,
  aim: LoudnessAimSchema.nullable(),
  shape: DeliveryShapeSchema,
  pattern: words.min(1),
  artist: words,
  album: words,
  year: z.number().int().min(YEAR_RANGE.min).max(YEAR_RANGE.max),
})
export type DeliverSettings = z.infer<typeof SettingsSchema>

const KEY = 'deliver'
export const useDeliverSettings = create<DeliverSettings>(() => ({
  format: { kind: 'wav', bits: 24, sampleRateHz: 48_000 },
  aim: null,
  shape: AS_MIXED,
  pattern: USUAL_NAME_PATTERN,
  artist: '',
  album: '',
  year: new Date().getFullYear(),
}))

void readSetting(KEY, SettingsSchema.partial()).then(
  stored => stored && useDeliverSettings.setState(stored as Partial<DeliverSettings>),
  () => {},
)

export function setDeliver(change: Partial<DeliverSettings>): void {
  useDeliverSettings.setState(change)
  void keepSetting(KEY, useDeliverSettings.getState()).catch(() => {})
}
