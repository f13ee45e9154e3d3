/** Stored levels of a sound at several zooms, from which ribbons are drawn and quiet spots are found. */
import type { Mono, Planar } from './frames'

/** Frames a bin covers, level by level. */
export const PEAK_LEVEL_FRAMES = [128, 512, 2_048, 8_192] as const

/** One zoom level: for each bin of `binFrames` frames the largest absolute sample and the root mean square, over all channels. */
export interface PeakLevel {
  binFrames: number
  peak: Mono
  rms: Mono
}

export interface Peaks {
  frames: number
  levels: PeakLevel[]
}

/** Builds the finest level as sound arrives; coarser ones come from it at the end. */
export class PeaksBuilder {
  private readonly peak: number[] = []
  private readonly power: number[] = []
  private binPeak = 0
  private binPower = 0
  private binFill = 0
  private frames = 0

  /** @returns The largest absolute sample of what is pushed, or of the unfinished bin before it. */
  push(planes: Planar): number {
    const binFrames = PEAK_LEVEL_FRAMES[0]
    const length = planes[0].length
    let largest = 0
    for (let from = 0; from < length;) {
      const to = Math.min(length, from + binFrames - this.binFill)
      for (const plane of planes) this.measure(plane, from, to, planes.length)
      largest = Math.max(largest, this.binPeak)
      this.binFill += to - from
      from = to
      if (this.binFill === binFrames) this.closeBin()
    }
    this.frames += length
    return largest
  }

  /** The coarsest level as far as it is known, from one of its bins on. */
  coarsest(fromBin: number): PeakLevel {
    const binFrames = PEAK_LEVEL_FRAMES.at(-1)!
    const ratio = binFrames / PEAK_LEVEL_FRAMES[0]
    const end = Math.floor(this.peak.length / ratio)
    const stretch = (values: number[]) => Float32Array.from(values.slice(fromBin * ratio, end * ratio))
    return {
      binFrames,
      peak: reduce(stretch(this.peak), ratio, Math.max, false),
      rms: reduce(stretch(this.power), ratio, (a, b) => a + b, true).map(Math.sqrt),
    }
  }

  finish(): Peaks {
    if (this.binFill > 0) this.closeBin()
    let peak = Float32Array.from(this.peak)
    let power = Float32Array.from(this.power)
    const levels: PeakLevel[] = []
    PEAK_LEVEL_FRAMES.forEach((binFrames, index) => {
      if (index > 0) {
        const ratio = binFrames / PEAK_LEVEL_FRAMES[index - 1]
        peak = reduce(peak, ratio, Math.max, false)
        power = reduce(power, ratio, (a, b) => a + b, true)
      }
      levels.push({ binFrames, peak, rms: power.map(Math.sqrt) })
    })
    return { frames: this.frames, levels }
  }

  private measure(plane: Mono, from: number, to: number, channels: number): void {
    let peak = this.binPeak
    let power = 0
    for (let i = from; i < to; i++) {
      const sample = plane[i]
      // Not by its sign: a branch on that is guessed wrong every other time.
      const level = Math.abs(sample)
      if (level > peak) peak = level
      power += sample * sample
    }
    this.binPeak = peak
    this.binPower += power / channels
  }

  private closeBin(): void {
    this.peak.push(this.binPeak)
    this.power.push(this.binPower / this.binFill)
    this.binPeak = this.binPower = this.binFill = 0
  }
}

export function makePeaks(planes: Planar): Peaks {
  const builder = new PeaksBuilder()
  builder.push(planes)
  return builder.finish()
}

/** The coarsest level whose bins are no longer than `framesPerPixel`; the finest if none is. */
export function levelFor(peaks: Peaks, framesPerPixel: number): PeakLevel {
  let best = peaks.levels[0]
  for (const level of peaks.levels) if (level.binFrames <= framesPerPixel) best = level
  return best
}

function reduce(values: Float32Array, ratio: number, combine: (a: number, b: number) => number, mean: boolean): Mono {
  const reduced = new Float32Array(Math.ceil(values.length / ratio))
  for (let bin = 0; bin < reduced.length; bin++) {
    const end = Math.min(values.length, (bin + 1) * ratio)
    let value = values[bin * ratio]
    for (let i = bin * ratio + 1; i < end; i++) value = combine(value, values[i])
    reduced[bin] = mean ? value / (end - bin * ratio) : value
  }
  return reduced
}
