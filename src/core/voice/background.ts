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
/**
 * Softer lines are no music: whoever sings them breathes. Stretches of a quarter of a second that lie 20 dB under the usual level of what is softer
 * are a tenth and more of singing (of 16 voices, 10 of them synthesised speech in nine languages), less where passes follow each other in a loop, and none of
 * music (of 7 beats).
 */
const BREATH_SECONDS = 0.25
const BREATH_BELOW = 10 ** -2
const BREATHS_SHARE = 0.02
/** In less of it than this one rest says nothing. */
const LEAST_SOFT_SECONDS = 4
/** Before the music begins, and after its end, it is quiet too. */
const EDGE_SECONDS = 0.5
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
  const reach = NEAR_SECONDS / HOP_SECONDS
  for (const { from, to } of runsOf(f0Hz.length, frame => f0Hz[frame] > 0))
    if (maxOf(power, from, to) > loudPower) near.fill(1, Math.max(0, from - reach), to + reach)
  const outside = power.filter((_, frame) => near[frame] === 0)
  const backgroundPower = quantile(outside, 0.5)
  const leaks =
    !breathes(power, near, BREATH_BELOW * backgroundPower) &&
    quantile(outside, 0.4) >= (ROOM_BELOW_TOP * loudPower) / LOUD_BELOW_TOP &&
    backgroundPower <= MUSIC_BELOW_LOUD * loudPower
  return { backgroundPower: leaks ? backgroundPower : 0, backgroundPeakPower: leaks ? quantile(outside, LOUD_MOMENTS) : 0, loudPower }
}

/** Whether what is not near the loud runs rests as a singer does. */
function breathes(power: Float32Array, near: Uint8Array, restPower: number): boolean {
  const outside = near.length - near.reduce((sum, is) => sum + is, 0)
  if (outside * HOP_SECONDS < LEAST_SOFT_SECONDS) return false
  const edge = EDGE_SECONDS / HOP_SECONDS
  const rests = runsOf(power.length, frame => near[frame] === 0 && power[frame] < restPower).filter(
    ({ from, to }) => (to - from) * HOP_SECONDS >= BREATH_SECONDS && from > edge && to < power.length - edge,
  )
  return rests.reduce((sum, { from, to }) => sum + to - from, 0) >= BREATHS_SHARE * outside
}
