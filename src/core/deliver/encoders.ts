/** What a delivery is written as: sound goes in piece by piece, a file comes out. */
import type { Planar } from '../audio/frames'
import { PackedEncoder } from './packed-encoder'
import { WavEncoder } from './wav-encoder'

export const DELIVERY_BITS = [16, 24, 32] as const
export const DELIVERY_RATES_HZ = [44_100, 48_000] as const
export type DeliveryRateHz = (typeof DELIVERY_RATES_HZ)[number]
export const MP3_KBPS = [128, 192, 256, 320] as const

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
/** MP3 of a constant rate; players that know its gapless tag play it to the frame. */
export interface Mp3Format {
  kind: 'mp3'
  kbps: (typeof MP3_KBPS)[number]
  sampleRateHz: DeliveryRateHz
}
export type DeliveryFormat = WavFormat | FlacFormat | Mp3Format

/** Written into formats that have a place for them; empty ones are left out. */
export interface DeliveryTags {
  title?: string
  artist?: string
  album?: string
  /** The words of the song. */
  lyrics?: string
}

export interface Encoder {
  readonly extension: string
  readonly mediaType: string
  /** Two channels; they are the caller's again when it is done. */
  push(planes: Planar): Promise<void>
  /** The file, in parts that follow each other. Nothing is pushed after that. */
  finish(): Promise<Uint8Array<ArrayBuffer>[]>
  /** Gives back what an encoder holds, where its file is not wanted any more. */
  cancel(): Promise<void>
}

export async function makeEncoder(format: DeliveryFormat, tags: DeliveryTags = {}): Promise<Encoder> {
  return format.kind === 'wav' ? new WavEncoder(format) : PackedEncoder.make(format, tags)
}

/** Without its dot. */
export function endingOf({ kind }: DeliveryFormat): string {
  return kind
}
