/** How loud a delivery is to be: by a gain and a ceiling, found by measuring what comes out. */
import type { Planar } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { Ceiling, CEILING_LATENCY_FRAMES } from '../effects/ceiling'
import { LoudnessMeter } from '../loudness/loudness'

export interface LoudnessAim {
  lufs: number
  truePeakDbtp: number
}
export const AIM_RANGES = { lufs: { min: -30, max: -5 }, truePeakDbtp: { min: -6, max: 0 } } as const

export interface Aimed {
  /** By so much the sound was made louder before its peaks were held. */
  gainDecibels: number
  /** The most that a peak was held back by. */
  heldDecibels: number
  /** What came out, in LUFS: louder than a ceiling allows nothing gets. */
  lufs: number
}

/** Nearer than this nobody hears a difference. */
const CLOSE_LU = 0.05
const MOST_ROUNDS = 6
/** Pressed harder than this, a song is no louder, only worse. */
const MOST_GAIN_DECIBELS = 36

/** @param pieces Of the whole sound, at 48 kHz, before any ceiling; not changed. @returns null for silence. */
export function aimAt(pieces: readonly Planar[], aim: LoudnessAim): Aimed | null {
  const raw = new LoudnessMeter(2, { truePeaks: false })
  for (const planes of pieces) raw.push(planes)
  const { integratedLufs } = raw.read()
  if (!Number.isFinite(integratedLufs)) return null
  let gainDecibels = Math.min(MOST_GAIN_DECIBELS, aim.lufs - integratedLufs)
  let best: Aimed | null = null
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const meter = new LoudnessMeter(2, { truePeaks: false })
    let heldDecibels = 0
    for (const planes of held(pieces, { gainDecibels, truePeakDbtp: aim.truePeakDbtp }, decibels => (heldDecibels = Math.max(heldDecibels, decibels))))
      meter.push(planes)
    const { integratedLufs: lufs } = meter.read()
    best = { gainDecibels, heldDecibels, lufs }
    const left = aim.lufs - lufs
    if (Math.abs(left) < CLOSE_LU || gainDecibels >= MOST_GAIN_DECIBELS) break
    gainDecibels = Math.min(MOST_GAIN_DECIBELS, gainDecibels + left)
  }
  return best
}

/** The pieces louder and under a ceiling, as long as they were. @param onHeld Decibels that were held back, block by block. */
export function* held(
  pieces: readonly Planar[],
  { gainDecibels, truePeakDbtp }: { gainDecibels: number; truePeakDbtp: number },
  onHeld: (decibels: number) => void = () => {},
): Generator<Planar> {
  const gain = decibelsToGain(gainDecibels)
  const ceiling = new Ceiling(decibelsToGain(truePeakDbtp))
  let toSkip = CEILING_LATENCY_FRAMES
  const through = (planes: Planar): Planar => {
    for (let at = 0; at < planes[0].length; at += CEILING_LATENCY_FRAMES) {
      ceiling.process(planes[0].subarray(at, at + CEILING_LATENCY_FRAMES), planes[1].subarray(at, at + CEILING_LATENCY_FRAMES))
      onHeld(ceiling.reductionDecibels)
    }
    const skipped = Math.min(toSkip, planes[0].length)
    toSkip -= skipped
    return planes.map(plane => plane.subarray(skipped))
  }
  for (const planes of pieces) yield through(planes.map(plane => plane.map(sample => gain * sample)))
  yield through([new Float32Array(CEILING_LATENCY_FRAMES), new Float32Array(CEILING_LATENCY_FRAMES)])
}
