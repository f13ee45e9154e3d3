/** What files are to be like: remembered from song to song. */
import { create } from 'zustand'
import { z } from 'zod'
import { DELIVERY_BITS, DELIVERY_RATES_HZ, MP3_KBPS, type DeliveryFormat } from '../../../core/deliver/encoders'
import { AIM_RANGES } from '../../../core/deliver/loudness-aim'
import { USUAL_NAME_PATTERN } from '../../../core/files/names'
import { keepSetting, readSetting } from '../../../storage/settings'

const within = ({ min, max }: { min: number; max: number }) => z.number().min(min).max(max)
const rate = z.literal([...DELIVERY_RATES_HZ])
const FormatSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('wav'), bits: z.literal([...DELIVERY_BITS]), sampleRateHz: rate }),
  z.strictObject({ kind: z.literal('flac'), sampleRateHz: rate }),
  z.strictObject({ kind: z.literal('mp3'), kbps: z.literal([...MP3_KBPS]), sampleRateHz: rate }),
])
const words = z.string().max(120)
const SettingsSchema = z.strictObject({
  format: FormatSchema,
  aim: z.strictObject({ lufs: within(AIM_RANGES.lufs), truePeakDbtp: within(AIM_RANGES.truePeakDbtp) }).nullable(),
  pattern: words.min(1),
  artist: words,
  album: words,
})
export type DeliverSettings = z.infer<typeof SettingsSchema>

const KEY = 'deliver'
export const useDeliverSettings = create<DeliverSettings>(() => ({
  format: { kind: 'wav', bits: 24, sampleRateHz: 48_000 },
  aim: null,
  pattern: USUAL_NAME_PATTERN,
  artist: '',
  album: '',
}))

void readSetting(KEY, SettingsSchema.partial()).then(
  stored => stored && useDeliverSettings.setState(stored as Partial<DeliverSettings>),
  () => {},
)

export function setDeliver(change: Partial<DeliverSettings>): void {
  useDeliverSettings.setState(change)
  void keepSetting(KEY, useDeliverSettings.getState()).catch(() => {})
}

/** A place that files go to, as numbers: all of them are shown and can be changed. */
export interface Destination {
  name: string
  says: string
  format: DeliveryFormat
  aim: DeliverSettings['aim']
}
export const DESTINATIONS: readonly Destination[] = [
  {
    name: 'a teacher or a friend',
    says: 'MP3, as loud as it is mixed, small enough to send',
    format: { kind: 'mp3', kbps: 320, sampleRateHz: 44_100 },
    aim: null,
  },
  {
    name: 'streaming',
    says: '-14 LUFS, peaks a decibel under full scale: what most services play it at anyway',
    format: { kind: 'wav', bits: 24, sampleRateHz: 44_100 },
    aim: { lufs: -14, truePeakDbtp: -1 },
  },
  {
    name: 'a mixing friend',
    says: 'floats at the rate it was recorded at; choose each layer, dry or with its spaces',
    format: { kind: 'wav', bits: 32, sampleRateHz: 48_000 },
    aim: null,
  },
  {
    name: 'video',
    says: '48 kHz, -16 LUFS',
    format: { kind: 'wav', bits: 24, sampleRateHz: 48_000 },
    aim: { lufs: -16, truePeakDbtp: -1 },
  },
  {
    name: 'the loudest I want',
    says: '-9 LUFS: peaks are held back, the report says by how much',
    format: { kind: 'wav', bits: 24, sampleRateHz: 44_100 },
    aim: { lufs: -9, truePeakDbtp: -1 },
  },
]
