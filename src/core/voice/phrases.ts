/** Where a take sings: runs of voice with their consonants, parted by rests; breaths lie outside. */
import { quantile } from '../audio/statistics'
import { HOP_SECONDS } from './hop'
import type { Gate } from './level'
import { maxOf, runsOf } from './runs'

export interface Stretch {
  startSeconds: number
  endSeconds: number
}

/** A rest shorter than this does not part a phrase: stops and esses make such gaps. */
const JOIN_SECONDS = 0.19
/** What noise hides of a phrase, as it usually is: weak consonants before it and between its words, and the dying away at its end. */
const HIDDEN_REST_SECONDS = 0.12
const HIDDEN_START_HOPS = 7
const HIDDEN_END_HOPS = 8
const LEAST_VOICED_SECONDS = 0.06
/** Where noise was taken off, what is left of it has a pitch for an eighth of a second now and then: nothing as soft and short is believed. */
const LEAST_SOFT_VOICED_SECONDS = 0.16
const SOFT_BELOW_LOUD = 10 ** -0.6
const LOUD_MOMENTS = 0.95
/** How far a phrase may reach beyond its voice, for the consonants at its ends. */
const MAX_CONSONANT_SECONDS = 0.3
/** Between a consonant and its vowel a stop may be silent, or a weak sound drown in noise. */
const MOST_DIP_SECONDS = 0.09
/**
 * What lies beyond a dip must be this loud to belong to the phrase, and last: a click of the mouth is shorter (blurred by the 25 ms
 * over which power is read).
 */
const CONSONANT_BELOW_VOICE = 10 ** -2
const LEAST_CONSONANT_SECONDS = 0.035
/** An ess is softer than that beside a loud vowel, and longer. */
const SIBILANT_BELOW_VOICE = 10 ** -3
const LEAST_SIBILANT_SECONDS = 0.055
/** Consonants stand at least this far above the room, in all the band or in the highs, and breaths lie this far below the voice. */
const ABOVE_FLOOR = 6
/** Noise hardly wavers over 25 ms of the highs: less is enough there, but no consonant is this soft against the loud voice. */
const HIGHS_ABOVE_FLOOR = 3
const HIGHS_BELOW_LOUD = 10 ** -5.7
const BREATH_BELOW_VOICE = 10 ** -2.7

/** Mean power by hop of a band, and what of it is the room's or leaking music's. */
export interface Band extends Pick<Gate, 'noisePower' | 'leastPower'> {
  power: Float32Array
  backgroundPeakPower: number
}

/**
 * @param f0Hz Pitch by hop, 0 for none.
 * @param voice All the band without rumble.
 * @param highs Where esses are; they stand out there of noise that hides them elsewhere.
 * @param hidden How much of what is soft is hidden by noise, 0 (nothing) to 1 (all but what is sung out).
 */
export function findPhrases(f0Hz: Float32Array, voice: Band, highs: Band, hidden = 0): Stretch[] {
  const joinSeconds = JOIN_SECONDS + hidden * HIDDEN_REST_SECONDS
  const voiced = runsOf(f0Hz.length, frame => f0Hz[frame] > 0).filter(run => (run.to - run.from) * HOP_SECONDS >= 0.02)
  const loudPower = quantile(voice.power, LOUD_MOMENTS)
  const phrases: { from: number; to: number; voicedHops: number }[] = []
  for (const run of voiced) {
    const reach = widen(run, voice, highs, HIGHS_BELOW_LOUD * loudPower)
    const last = phrases.at(-1)
    if (last && (reach.from - last.to) * HOP_SECONDS < joinSeconds) {
      last.to = Math.max(last.to, reach.to)
      last.voicedHops += run.to - run.from
    } else phrases.push({ ...reach, voicedHops: run.to - run.from })
  }
  const share = Math.min(1, 2 * hidden)
  const softPower = hidden > 0 ? SOFT_BELOW_LOUD * loudPower : 0
  return phrases
    .filter(({ from, to, voicedHops }) => {
      const least = maxOf(voice.power, from, to) < softPower ? LEAST_SOFT_VOICED_SECONDS : LEAST_VOICED_SECONDS
      return voicedHops * HOP_SECONDS >= least
    })
    .map(({ from, to }) => ({
      startSeconds: Math.max(0, from - Math.round(share * HIDDEN_START_HOPS)) * HOP_SECONDS,
      endSeconds: Math.min(f0Hz.length, to + Math.round(share * HIDDEN_END_HOPS)) * HOP_SECONDS,
    }))
}

function widen(
  run: { from: number; to: number },
  { power, noisePower, leastPower, backgroundPeakPower }: Band,
  highs: Band,
  leastHighsPower: number,
): { from: number; to: number } {
  let loud = 0
  for (let i = run.from; i < run.to; i++) loud = Math.max(loud, power[i])
  const leastHighs = Math.max(HIGHS_ABOVE_FLOOR * highs.noisePower, highs.backgroundPeakPower, leastHighsPower)
  const hisses = (i: number) => highs.power[i] >= Math.max(SIBILANT_BELOW_VOICE * loud, leastHighs)
  const sounds = (i: number) =>
    hisses(i) ||
    (power[i] >= BREATH_BELOW_VOICE * loud && (power[i] >= Math.max(ABOVE_FLOOR * noisePower, backgroundPeakPower, leastPower) || highs.power[i] >= leastHighs))
  const most = MAX_CONSONANT_SECONDS / HOP_SECONDS
  let { from, to } = run
  const dip = MOST_DIP_SECONDS / HOP_SECONDS
  const lasts = (i: number, step: 1 | -1, seconds: number, is: (i: number) => boolean) => {
    for (let k = 0; k < seconds / HOP_SECONDS; k++) if (!is(i + k * step)) return false
    return true
  }
  const isConsonant = (i: number, step: 1 | -1) =>
    lasts(i, step, LEAST_CONSONANT_SECONDS, at => power[at] >= CONSONANT_BELOW_VOICE * loud) || lasts(i, step, LEAST_SIBILANT_SECONDS, hisses)
  const bridges = (i: number, gap: number, step: 1 | -1) => sounds(i) && (gap <= 1 || isConsonant(i, step))
  for (let i = from - 1; i >= 0 && run.from - i <= most && from - i <= dip; i--) if (bridges(i, from - i, -1)) from = i
  for (let i = to; i < power.length && i - run.to < most && i - to < dip; i++) if (bridges(i, i - to + 1, 1)) to = i + 1
  return { from, to }
}
