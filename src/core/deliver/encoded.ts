/** What comes out of a file that is not written to the sample: it is decoded and measured. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { Resampler } from '../audio/resample'
import { bytesOf } from '../files/byte-source'
import { LoudnessMeter } from '../loudness/loudness'

export interface Encoded {
  integratedLufs: number
  truePeakDbtp: number
}

/** @returns null where nothing here plays the file. */
export async function measureEncoded(parts: readonly Uint8Array[]): Promise<Encoded | null> {
  // Decoders are loaded only where they are asked for.
  const { openSound } = await import('../files/decode')
  const opened = await openSound(bytesOf(joined(parts)))
  if (!opened.ok) return null
  const { sound } = opened
  const meter = new LoudnessMeter(2)
  const resampler = sound.sampleRateHz === SAMPLE_RATE_HZ ? null : new Resampler(sound.sampleRateHz, SAMPLE_RATE_HZ, 2)
  try {
    for await (const { planes } of sound.chunks()) {
      meter.push(resampler?.push(planes) ?? planes)
    }
  } catch {
    return null
  }
  if (resampler) meter.push(resampler.flush())
  const { integratedLufs, truePeakDbtp } = meter.read()
  return { integratedLufs, truePeakDbtp }
}

function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}
