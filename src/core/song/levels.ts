/** Levels and nudges as the document keeps them. */
import { GAIN_RANGE_DECIBELS, MEASURED_RANGE_DECIBELS, NUDGE_RANGE_FRAMES } from './schema'

/** The nearest level that a song can keep. @param decibels NaN counts as no change: 0. */
export function clampGain(decibels: number): number {
  return Number.isNaN(decibels) ? 0 : Math.max(GAIN_RANGE_DECIBELS.min, Math.min(GAIN_RANGE_DECIBELS.max, decibels))
}

/** The nearest place that a song can keep. @param pan NaN counts as the middle. */
export function clampPan(pan: number): number {
  return Number.isNaN(pan) ? 0 : Math.max(-1, Math.min(1, pan))
}

/** The nearest nudge that a pick can keep. */
export function clampNudge(frames: number): number {
  return Math.round(Math.max(NUDGE_RANGE_FRAMES.min, Math.min(NUDGE_RANGE_FRAMES.max, frames)))
}

/** The nearest measured level that can be kept: of digital silence the lowest. */
export function clampLevel(decibels: number): number {
  return Number.isNaN(decibels) ? MEASURED_RANGE_DECIBELS.min : Math.max(MEASURED_RANGE_DECIBELS.min, Math.min(MEASURED_RANGE_DECIBELS.max, decibels))
}
