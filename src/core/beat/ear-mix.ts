/** The one channel that the analysis reads: the mean of both sides, or a single side where the two cancel each other out. */
import { mixToMono, type Mono, type Planar } from '../audio/frames'

/** Of the power of one side, what the sum of both must hold. */
const CANCELLED_SHARE = 0.05
const STRIDE = 16

/** Whether the two sides of a sound cancel each other out, gathered piece by piece. */
export class SideTally {
  private mixedPower = 0
  private sidePower = 0

  /** @param mixed The mean of both sides of the same piece. */
  push(planes: Planar, mixed: Mono): void {
    this.mixedPower += sampledPower(mixed)
    this.sidePower += sampledPower(planes[0])
  }

  /** The sum holds too little of the sound: one side alone holds more. */
  get sidesCancel(): boolean {
    return this.mixedPower < CANCELLED_SHARE * this.sidePower
  }
}

/** Takes a beat's sound in order, piece by piece, so that it need not be in memory twice. */
export class EarMix {
  readonly mono: Mono
  private filled = 0
  private readonly tally = new SideTally()

  constructor(frames: number) {
    this.mono = new Float32Array(frames)
  }

  push(planes: Planar): void {
    const mixed = mixToMono(planes)
    this.mono.set(mixed, this.filled)
    this.filled += mixed.length
    this.tally.push(planes, mixed)
  }

  /** The sound is to be pushed again, one side alone. */
  get sidesCancel(): boolean {
    return this.tally.sidesCancel
  }
}

export function mixForEars(planes: Planar): Mono {
  const mix = new EarMix(planes[0].length)
  mix.push(planes)
  return mix.sidesCancel ? planes[0] : mix.mono
}

function sampledPower(values: Mono): number {
  let sum = 0
  for (let i = 0; i < values.length; i += STRIDE) sum += values[i] * values[i]
  return sum
}
