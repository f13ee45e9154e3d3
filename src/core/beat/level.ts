/** How loud a beat is, what is wrong with its level, and how far it should be turned down so that a voice has room. */
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { LoudnessMeter, type Loudness } from '../loudness/loudness'

export interface BeatLevel extends Loudness {
  /** Stretches whose tops are cut off, at most MAX_STRETCHES; several that lie near are one. */
  clipped: { startFrame: number; endFrame: number }[]
  channels: 'mono' | 'stereo' | 'same on both sides' | 'out of phase'
  /** Decibels, -18..0. */
  proposedGainDecibels: number
}

const MAX_STRETCHES = 200
const CLIPPED_RUN_FRAMES = 4
/** Clips nearer than this are one stretch. */
const NEAR_FRAMES = 4_800
/** Samples this near the highest one count as cut off there. */
const FLAT = 0.9995
/** Below this peak nothing was cut off by a full scale. */
const CLIPPING_PEAK = 0.7
/** A lead voice in a mix at -14 LUFS wants the beat a few decibels under that. */
const ROOMY_LUFS = -18

/** Takes a beat's sound in order, piece by piece. */
export class LevelMeter {
  private readonly loudness: LoudnessMeter
  private readonly clips: ClipFinder[]
  private readonly sides = new SideRelation()
  private frames = 0

  /** @param samplePeak The largest sample there is, by absolute value: tops are cut off at that level or nowhere. */
  constructor(
    private readonly channels: number,
    samplePeak: number,
  ) {
    this.loudness = new LoudnessMeter(channels)
    this.clips = samplePeak > CLIPPING_PEAK ? Array.from({ length: channels }, () => new ClipFinder(samplePeak * FLAT)) : []
  }

  /** Every piece but the last must be a multiple of four long. */
  push(planes: Planar): void {
    this.loudness.push(planes)
    this.clips.forEach((finder, c) => finder.push(planes[c], this.frames))
    if (this.channels === 2) this.sides.push(planes)
    this.frames += planes[0].length
  }

  read(): BeatLevel {
    const loudness = this.loudness.read()
    const proposed = Number.isFinite(loudness.integratedLufs) ? Math.round(2 * (ROOMY_LUFS - loudness.integratedLufs)) / 2 : 0
    return {
      ...loudness,
      clipped: stretchesOf(this.clips.flatMap(finder => finder.runs)),
      channels: this.channels === 2 ? this.sides.read() : 'mono',
      proposedGainDecibels: Math.max(-18, Math.min(0, proposed)),
    }
  }
}

export function measureLevel(planes: Planar): BeatLevel {
  let peak = 0
  for (const plane of planes) for (let i = 0; i < plane.length; i++) peak = Math.max(peak, Math.abs(plane[i]))
  const meter = new LevelMeter(planes.length, peak)
  const step = SAMPLE_RATE_HZ
  for (let from = 0; from < planes[0].length; from += step) meter.push(planes.map(plane => plane.subarray(from, from + step)))
  return meter.read()
}

/** Runs of one channel that stay at the limit. */
class ClipFinder {
  readonly runs: BeatLevel['clipped'] = []
  private run = 0

  constructor(private readonly limit: number) {}

  push(plane: Mono, startFrame: number): void {
    const { limit } = this
    let { run } = this
    for (let i = 0; i < plane.length; i++) {
      const sample = plane[i]
      if (sample < limit && sample > -limit) run = 0
      else if (++run === CLIPPED_RUN_FRAMES) this.runs.push({ startFrame: startFrame + i + 1 - CLIPPED_RUN_FRAMES, endFrame: startFrame + i + 1 })
    }
    this.run = run
  }
}

function stretchesOf(runs: BeatLevel['clipped']): BeatLevel['clipped'] {
  const stretches: BeatLevel['clipped'] = []
  for (const run of runs.sort((one, other) => one.startFrame - other.startFrame)) {
    const last = stretches.at(-1)
    if (last && run.startFrame - last.endFrame < NEAR_FRAMES) last.endFrame = run.endFrame
    else if (stretches.length < MAX_STRETCHES) stretches.push(run)
  }
  return stretches
}

/** Every fourth frame says enough about how the sides relate. */
const RELATE_STRIDE = 4

class SideRelation {
  private product = 0
  private leftPower = 1e-12
  private rightPower = 1e-12
  private difference = 0

  push([left, right]: Planar): void {
    let { product, leftPower, rightPower, difference } = this
    for (let i = 0; i < left.length; i += RELATE_STRIDE) {
      product += left[i] * right[i]
      leftPower += left[i] * left[i]
      rightPower += right[i] * right[i]
      difference += (left[i] - right[i]) ** 2
    }
    Object.assign(this, { product, leftPower, rightPower, difference })
  }

  read(): 'same on both sides' | 'out of phase' | 'stereo' {
    const { product, leftPower, rightPower, difference } = this
    if (difference < 1e-6 * (leftPower + rightPower)) return 'same on both sides'
    return product / Math.sqrt(leftPower * rightPower) < -0.3 ? 'out of phase' : 'stereo'
  }
}
