/** How loud a beat is, what is wrong with its level, and how far it should be turned down so that a voice has room. */
import type { Planar } from '../audio/frames'
import { measureLoudness, type Loudness } from '../loudness/loudness'

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

export function measureLevel(planes: Planar): BeatLevel {
  const loudness = measureLoudness(planes)
  const proposed = Number.isFinite(loudness.integratedLufs) ? Math.round(2 * (ROOMY_LUFS - loudness.integratedLufs)) / 2 : 0
  return { ...loudness, clipped: findClipped(planes, loudness.samplePeakDbfs), channels: relateChannels(planes), proposedGainDecibels: Math.max(-18, Math.min(0, proposed)) }
}

function findClipped(planes: Planar, samplePeakDbfs: number): BeatLevel['clipped'] {
  const peak = 10 ** (samplePeakDbfs / 20)
  if (!(peak > CLIPPING_PEAK)) return []
  const limit = peak * FLAT
  const runs: BeatLevel['clipped'] = []
  for (const plane of planes) {
    for (let i = 0, run = 0; i < plane.length; i++) {
      const sample = plane[i]
      if (sample < limit && sample > -limit) run = 0
      else if (++run === CLIPPED_RUN_FRAMES) runs.push({ startFrame: i + 1 - CLIPPED_RUN_FRAMES, endFrame: i + 1 })
    }
  }
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

function relateChannels(planes: Planar): BeatLevel['channels'] {
  if (planes.length < 2) return 'mono'
  const [left, right] = planes
  let product = 0
  let leftPower = 1e-12
  let rightPower = 1e-12
  let difference = 0
  for (let i = 0; i < left.length; i += RELATE_STRIDE) {
    product += left[i] * right[i]
    leftPower += left[i] * left[i]
    rightPower += right[i] * right[i]
    difference += (left[i] - right[i]) ** 2
  }
  if (difference < 1e-6 * (leftPower + rightPower)) return 'same on both sides'
  return product / Math.sqrt(leftPower * rightPower) < -0.3 ? 'out of phase' : 'stereo'
}
