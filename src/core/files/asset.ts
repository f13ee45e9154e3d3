/** Facts about stored sound, gathered once while its chunks pass by. */
import xxhash from 'xxhash-wasm'
import type { Mono, Planar } from '../audio/frames'
import { PeaksBuilder, type PeakLevel, type Peaks } from '../audio/peaks'
import { exactEncoding, type WrittenEncoding } from './wav'

export interface AssetFacts {
  frames: number
  channels: number
  /** 64-bit xxHash of all samples as little-endian floats, chunk by chunk, channel by channel, -0 counted as 0; 16 hex digits. */
  contentHash: string
  /** The smallest WAV format that holds the sound exactly. */
  encoding: WrittenEncoding
  /** Runs of three or more samples at full scale. */
  clippedRuns: number
  peaks: Peaks
}

const FULL_SCALE = 0.9999

/** Takes an asset's chunks in order and knows its facts at the end. */
export class AssetReader {
  private frames = 0
  private encoding: WrittenEncoding = 'pcm16'
  private clippedRuns = 0
  private fullScaleRun = 0
  private readonly peaks = new PeaksBuilder()

  private constructor(
    private readonly channels: number,
    private readonly hash: { update(bytes: Uint8Array): unknown; digest(): bigint },
  ) {}

  static async create(channels: number): Promise<AssetReader> {
    const { create64 } = await xxhash()
    return new AssetReader(channels, create64())
  }

  push(planes: Planar): void {
    this.frames += planes[0].length
    this.encoding = exactEncoding(planes, this.encoding)
    const largest = this.peaks.push(planes)
    for (const plane of planes) {
      const hashed = withoutNegativeZero(plane)
      this.hash.update(new Uint8Array(hashed.buffer, hashed.byteOffset, hashed.byteLength))
    }
    if (largest < FULL_SCALE) this.fullScaleRun = 0
    else this.countClippedRuns(planes[0])
  }

  private countClippedRuns(plane: Mono): void {
    for (let i = 0; i < plane.length; i++) {
      if (Math.abs(plane[i]) < FULL_SCALE) this.fullScaleRun = 0
      else if (++this.fullScaleRun === 3) this.clippedRuns++
    }
  }

  /** The coarsest peaks so far, from one of their bins on: what can be drawn while the sound arrives. */
  coarsestPeaks(fromBin: number): PeakLevel {
    return this.peaks.coarsest(fromBin)
  }

  finish(): AssetFacts {
    return {
      frames: this.frames,
      channels: this.channels,
      contentHash: this.hash.digest().toString(16).padStart(16, '0'),
      encoding: this.encoding,
      clippedRuns: this.clippedRuns,
      peaks: this.peaks.finish(),
    }
  }
}

const NEGATIVE_ZERO_BITS = -0x80000000

/** Whole-number files know only one zero. The same array comes back if it holds no other. */
function withoutNegativeZero(plane: Mono): Mono {
  const bits = new Int32Array(plane.buffer, plane.byteOffset, plane.length)
  return bits.includes(NEGATIVE_ZERO_BITS) ? plane.map(sample => sample + 0) : plane
}
