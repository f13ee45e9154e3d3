/** What a delivery is written as: sound goes in piece by piece, a file comes out. */
import type { Planar } from '../audio/frames'
import { PackedEncoder } from './packed-encoder'
import { WavEncoder } from './wav-encoder'

export const DELIVERY_BITS = [16, 24, 32] as const
export const MP3_KBPS = [128, 192, 256, 320] as const
/** Of those, the ones that a rate can vary about. */
export const MP3_VARYING_KBPS: readonly number[] = [128, 192, 256]
export const AAC_KBPS = [128, 192, 256, 320] as const
export const OPUS_KBPS = [64, 96, 128, 160, 192, 256] as const

/** Of formats that keep every sample; the others have the one or two that all players take. */
const EXACT_RATES_HZ = [44_100, 48_000, 88_200, 96_000] as const
const PACKED_RATES_HZ = [44_100, 48_000] as const
export type DeliveryRateHz = (typeof EXACT_RATES_HZ)[number]
type PackedRateHz = (typeof PACKED_RATES_HZ)[number]

/** WAV of whole numbers, 16 bits with triangular dither as 24; 32 bits are floats, which nothing is rounded in. */
export interface WavFormat {
  kind: 'wav'
  bits: (typeof DELIVERY_BITS)[number]
  sampleRateHz: DeliveryRateHz
}
/** FLAC of 24 bits: nothing is lost of them, in about half the bytes. */
export interface FlacFormat {
  kind: 'flac'
  sampleRateHz: DeliveryRateHz
}
/** MP3; players that know its gapless tag play it to the frame. */
export interface Mp3Format {
  kind: 'mp3'
  kbps: (typeof MP3_KBPS)[number]
  /** The rate goes up and down with what the sound asks for and is so much about in the mean. Not of the highest rate, which leaves no way up. */
  varies?: true
  sampleRateHz: PackedRateHz
}
/** AAC of low complexity in an MP4 file, whose edit list says where the sound begins and ends. */
export interface AacFormat {
  kind: 'aac'
  kbps: (typeof AAC_KBPS)[number]
  sampleRateHz: PackedRateHz
}
/** Opus in an Ogg file, which knows one rate. */
export interface OpusFormat {
  kind: 'opus'
  kbps: (typeof OPUS_KBPS)[number]
  sampleRateHz: 48_000
}
export type DeliveryFormat = WavFormat | FlacFormat | Mp3Format | AacFormat | OpusFormat
export const DELIVERY_KINDS = ['wav', 'flac', 'mp3', 'aac', 'opus'] as const satisfies readonly DeliveryFormat['kind'][]

export const DELIVERY_RATES_HZ: { readonly [K in DeliveryFormat['kind']]: readonly Extract<DeliveryFormat, { kind: K }>['sampleRateHz'][] } = {
  wav: EXACT_RATES_HZ,
  flac: EXACT_RATES_HZ,
  mp3: PACKED_RATES_HZ,
  aac: PACKED_RATES_HZ,
  opus: [48_000],
}

/** Written into formats that have a place for them; empty ones are left out. */
export interface DeliveryTags {
  title?: string
  artist?: string
  album?: string
  year?: number
  /** The words of the song. */
  lyrics?: string
  tempoBpm?: number
  /** Such as "F minor". */
  key?: string
  cover?: { data: Uint8Array<ArrayBuffer>; mediaType: 'image/jpeg' | 'image/png' }
}

export interface Encoder {
  readonly mediaType: string
  /** Two channels; they are the caller's again when it is done. */
  push(planes: Planar): Promise<void>
  /** The file, in parts that follow each other. Nothing is pushed after that. */
  finish(): Promise<Uint8Array<ArrayBuffer>[]>
  /** Gives back what an encoder holds, where its file is not wanted any more. */
  cancel(): Promise<void>
}

/** @throws NoEncoderError where nothing here writes the format. */
export async function makeEncoder(format: DeliveryFormat, tags: DeliveryTags = {}): Promise<Encoder> {
  return format.kind === 'wav' ? new WavEncoder(format, tags) : PackedEncoder.make(format, tags)
}

/** A format as it is usually asked for, at a rate if it has it. */
export function usualFormat(kind: DeliveryFormat['kind'], rateHz: number = 48_000): DeliveryFormat {
  const packedRate = PACKED_RATES_HZ.find(rate => rate === rateHz) ?? 48_000
  const exactRate = EXACT_RATES_HZ.find(rate => rate === rateHz) ?? 48_000
  switch (kind) {
    case 'wav':
      return { kind, bits: 24, sampleRateHz: exactRate }
    case 'flac':
      return { kind, sampleRateHz: exactRate }
    case 'mp3':
      return { kind, kbps: 320, sampleRateHz: packedRate }
    case 'aac':
      return { kind, kbps: 256, sampleRateHz: packedRate }
    case 'opus':
      return { kind, kbps: 160, sampleRateHz: 48_000 }
  }
}

/** Whether what is written differs from what was mixed by more than rounding. */
export function isLossy({ kind }: DeliveryFormat): boolean {
  return kind === 'mp3' || kind === 'aac' || kind === 'opus'
}

/** Without its dot. */
export function endingOf({ kind }: Pick<DeliveryFormat, 'kind'>): string {
  return kind === 'aac' ? 'm4a' : kind
}
