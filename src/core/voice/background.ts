/** What sounds between the phrases: the room, or music that leaks from the headphones. */
import { quantile } from '../audio/statistics'
import { HOP_SECONDS } from './hop'
import { maxOf, runsOf } from './runs'

/** Loud runs and what lies within this time of them are the singer's. */
const NEAR_SECONDS = 0.25
const LOUD_BELOW_TOP = 0.1
/** Music from headphones stays this far below what is certainly sung; louder than that are softer lines. */
const MUSIC_BELOW_LOUD = 10 ** -1.2
const LOUD_MOMENTS = 0.9
/** Music sounds on in the rests round loud singing too; softer lines do not. Looked at as far as this from it, where there is so much of it. */
const BESIDE_SECONDS = 1.5
const LEAST_BESIDE_SECONDS = 0.4
/** Between phrases a room is at least this far below the voice; what is louder there is music. */
const ROOM_BELOW_TOP = 10 ** -4.5

/**
 * @param f0Hz Pitch by hop, 0 for none; wrong where music has one.
 * @returns The usual power of leaking music and that of its loud moments, 0 if there is none but the room; and the power from which
 * a run is certainly the singer's.
 */
export function findBackground(f0Hz: Float32Array, power: Float32Array): { backgroundPower: number; backgroundPeakPower: number; loudPower: number } {
  const loudPower = LOUD_BELOW_TOP * quantile(power, 0.95)
  const near = new Uint8Array(power.length)
  const beside = new Uint8Array(power.length)
  const [reach, besideReach] = [NEAR_SECONDS / HOP_SECONDS, BESIDE_SECONDS / HOP_SECONDS]
  for (const { from, to } of runsOf(f0Hz.length, frame => f0Hz[frame] > 0)) {
    if (maxOf(power, from, to) <= loudPower) continue
    near.fill(1, Math.max(0, from - reach), to + reach)
    beside.fill(1, Math.max(0, from - besideReach), to + besideReach)
  }
  const outside = power.filter((_, frame) => near[frame] === 0)
  const rests = power.filter((_, frame) => near[frame] === 0 && beside[frame] === 1)
  const backgroundPower = quantile(outside, 0.5)
  const roomPower = (ROOM_BELOW_TOP * loudPower) / LOUD_BELOW_TOP
  const sounds = (frames: Float32Array) => quantile(frames, 0.4) >= roomPower
  const restsSound = rests.length * HOP_SECONDS < LEAST_BESIDE_SECONDS || sounds(rests)
  const leaks = sounds(outside) && restsSound && backgroundPower <= MUSIC_BELOW_LOUD * loudPower
  return { backgroundPower: leaks ? backgroundPower : 0, backgroundPeakPower: leaks ? quantile(outside, LOUD_MOMENTS) : 0, loudPower }
}
