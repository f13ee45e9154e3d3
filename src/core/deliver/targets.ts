/** What files are to be like, and places that they go to, as numbers: all of them can be changed. */
import { z } from 'zod'
import { FADE_RANGE_SECONDS } from './delivery-shape'
import { AAC_KBPS, DELIVERY_BITS, DELIVERY_RATES_HZ, MP3_KBPS, MP3_VARYING_KBPS, OPUS_KBPS, type DeliveryFormat } from './encoders'
import { AIM_RANGES, type LoudnessAim } from './loudness-aim'

const within = ({ min, max }: { min: number; max: number }) => z.number().min(min).max(max)

export const DeliveryFormatSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('wav'), bits: z.literal([...DELIVERY_BITS]), sampleRateHz: z.literal([...DELIVERY_RATES_HZ.wav]) }),
  z.strictObject({ kind: z.literal('flac'), sampleRateHz: z.literal([...DELIVERY_RATES_HZ.flac]) }),
  z
    .strictObject({
      kind: z.literal('mp3'),
      kbps: z.literal([...MP3_KBPS]),
      varies: z.literal(true).exactOptional(),
      sampleRateHz: z.literal([...DELIVERY_RATES_HZ.mp3]),
    })
    .refine(({ kbps, varies }) => !varies || MP3_VARYING_KBPS.includes(kbps), {
      path: ['kbps'],
      error: `a rate that varies does so about ${MP3_VARYING_KBPS.join(', ')} kbps`,
    }),
  z.strictObject({ kind: z.literal('aac'), kbps: z.literal([...AAC_KBPS]), sampleRateHz: z.literal([...DELIVERY_RATES_HZ.aac]) }),
  z.strictObject({ kind: z.literal('opus'), kbps: z.literal([...OPUS_KBPS]), sampleRateHz: z.literal([...DELIVERY_RATES_HZ.opus]) }),
])
export const LoudnessAimSchema = z.strictObject({ lufs: within(AIM_RANGES.lufs), truePeakDbtp: within(AIM_RANGES.truePeakDbtp) })
export const DeliveryShapeSchema = z.strictObject({
  fromFirstSound: z.boolean(),
  fadeInSeconds: within(FADE_RANGE_SECONDS),
  fadeOutSeconds: within(FADE_RANGE_SECONDS),
})

export interface Target {
  /** For the command line. */
  id: string
  name: string
  says: string
  format: DeliveryFormat
  /** Null: as mixed. */
  aim: LoudnessAim | null
  /** How files are called there; null: as the singer has it. */
  pattern: string | null
}

export const TARGETS: readonly Target[] = [
  {
    id: 'friend',
    name: 'a teacher or a friend',
    says: 'MP3, as loud as it is mixed, small enough to send',
    format: { kind: 'mp3', kbps: 320, sampleRateHz: 44_100 },
    aim: null,
    pattern: null,
  },
  {
    id: 'streaming',
    name: 'streaming',
    says: '-14 LUFS, peaks a decibel under full scale: what most services play it at anyway',
    format: { kind: 'wav', bits: 24, sampleRateHz: 44_100 },
    aim: { lufs: -14, truePeakDbtp: -1 },
    pattern: null,
  },
  {
    id: 'mixing',
    name: 'a mixing friend',
    says: '24 bits at the rate it was recorded at, tempo and key in the names; choose each layer, dry or with its spaces',
    format: { kind: 'wav', bits: 24, sampleRateHz: 48_000 },
    aim: null,
    pattern: '{title} - {part} - {tempo} {key}',
  },
  {
    id: 'video',
    name: 'video',
    says: '48 kHz, -16 LUFS',
    format: { kind: 'wav', bits: 24, sampleRateHz: 48_000 },
    aim: { lufs: -16, truePeakDbtp: -1 },
    pattern: null,
  },
  {
    id: 'loud',
    name: 'the loudest I want',
    says: '-9 LUFS: peaks are held back, the report says by how much',
    format: { kind: 'wav', bits: 24, sampleRateHz: 44_100 },
    aim: { lufs: -9, truePeakDbtp: -1 },
    pattern: null,
  },
]
