/** Whether the audio clock leapt: whole buffers gained or lost without a report, seen against the machine's clock. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { median } from '../audio/statistics'

export interface ClockReading {
  milliseconds: number
  frames: number
}

/** The frames are those of the audio clock at the leap; positive if frames were skipped, negative if the audio stood still meanwhile. */
export interface ClockJump {
  atFrame: number
  frames: number
}

/** Readings within this time are one: the audio clock moves in bursts, and only its latest moments are on time. */
const WINDOW_MILLISECONDS = 500
/** Windows compared on both sides of a leap. */
const SIDE = 3
const LEAST_FRAMES = 0.008 * SAMPLE_RATE_HZ

/**
 * Compares counted frames with time. A clock that only runs a little faster or slower than the machine's (crystals differ by up to 0.05 %)
 * has none.
 * @param readings In order of time, about ten a second.
 */
export function findClockJumps(readings: readonly ClockReading[]): ClockJump[] {
  const windows: { milliseconds: number; frames: number; ahead: number }[] = []
  for (const { milliseconds, frames } of readings) {
    const ahead = frames - (milliseconds * SAMPLE_RATE_HZ) / 1_000
    const last = windows.at(-1)
    if (!last || milliseconds - last.milliseconds > WINDOW_MILLISECONDS) windows.push({ milliseconds, frames, ahead })
    else if (ahead > last.ahead) {
      last.ahead = ahead
      last.frames = frames
    }
  }
  const steps = windows.map((_, i) => {
    if (i < SIDE || i + SIDE > windows.length) return 0
    return median(windows.slice(i, i + SIDE).map(window => window.ahead)) - median(windows.slice(i - SIDE, i).map(window => window.ahead))
  })
  const jumps: ClockJump[] = []
  steps.forEach((step, i) => {
    const isPeak =
      Math.abs(step) >= LEAST_FRAMES &&
      steps.slice(Math.max(0, i - SIDE + 1), i).every(other => Math.abs(other) < Math.abs(step)) &&
      steps.slice(i + 1, i + SIDE).every(other => Math.abs(other) <= Math.abs(step))
    if (isPeak) jumps.push({ atFrame: windows[i].frames, frames: Math.round(step) })
  })
  return jumps
}
