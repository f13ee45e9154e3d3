/** Esses and other sibilants: noise in the highs that outweighs all below it. */
import { type Mono, SAMPLE_RATE_HZ } from '../audio/frames'
import { quantile } from '../audio/statistics'
import { filtered, highPass, lowPass, type BiquadCoefficients } from '../effects/biquad'
import { HOP_SECONDS } from './hop'
import { framePowers } from './level'
import type { Stretch } from './phrases'
import { maxOf, runsOf, type Run } from './runs'

/** Breath and the room lie evenly below and above; vowels below, esses above. */
const HIGHS_FROM_HZ = 4_500
const BODY_FROM_HZ = 120
const BODY_TO_HZ = 3_000
/** Windows of 10 ms: an ess of 40 ms is not smeared over its vowels. */
const REACH_HALF_HOPS = 2
/** An ess's highs are as strong as its body at least (at its middle by so much), and no weaker against the loud voice than this. */
const LEAST_OVER_BODY = 0.8
const LEAST_OVER_BODY_AT_TOP = 1.6
const BELOW_LOUD = 10 ** -2.4
/** A voiced one (z) lies over its voice: its highs are weaker against the body. */
const ABOVE_ROOM = 6
const LEAST_SECONDS = 0.03
const JOIN_SECONDS = 0.012
/** Longer hiss is no consonant. */
const MOST_SECONDS = 0.6

/** @param voice One channel at 48 kHz. @returns in order. */
export function findEsses(voice: Mono): Stretch[] {
  const highs = powersOf(voice, highPass(HIGHS_FROM_HZ), highPass(HIGHS_FROM_HZ))
  const body = powersOf(voice, highPass(BODY_FROM_HZ), lowPass(BODY_TO_HZ))
  const sum = highs.map((power, hop) => power + body[hop])
  const loud = quantile(sum, 0.95)
  // The room's share is taken off the highs: hiss under a whole take is no ess.
  const room = quantile(
    highs.filter(power => power > 1e-12),
    0.2,
  )
  const least = Math.max(BELOW_LOUD * loud, ABOVE_ROOM * room)
  const over = highs.map((power, hop) => (power < least ? 0 : (power - room) / (body[hop] + 1e-12)))
  const joined: Run[] = []
  for (const run of runsOf(over.length, hop => over[hop] >= LEAST_OVER_BODY)) {
    const last = joined.at(-1)
    if (last && (run.from - last.to) * HOP_SECONDS <= JOIN_SECONDS) last.to = run.to
    else joined.push(run)
  }
  return joined
    .filter(({ from, to }) => {
      const seconds = (to - from) * HOP_SECONDS
      return seconds >= LEAST_SECONDS && seconds <= MOST_SECONDS && maxOf(over, from, to) >= LEAST_OVER_BODY_AT_TOP
    })
    .map(({ from, to }) => ({ startSeconds: Math.max(0, from - 0.5) * HOP_SECONDS, endSeconds: (to - 0.5) * HOP_SECONDS }))
}

function powersOf(voice: Mono, ...filters: BiquadCoefficients[]): Float32Array<ArrayBuffer> {
  return framePowers(filtered(voice, ...filters), SAMPLE_RATE_HZ, REACH_HALF_HOPS)
}
