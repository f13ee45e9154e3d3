/** How clearly voices are understood over a beat: what of each band of speech comes through it. */
import { powerToDecibels } from '../audio/decibels'
import { mixToMono, type Planar } from '../audio/frames'
import { bandPower, spectraOf } from '../audio/third-octaves'

/**
 * How much each third of an octave counts for speech, as shares of one. @see ANSI S3.5-1997, Methods for calculation of the speech
 * intelligibility index, table 3.
 */
const IMPORTANCE: readonly (readonly [hz: number, share: number])[] = [
  [160, 0.0083],
  [200, 0.0095],
  [250, 0.015],
  [315, 0.0289],
  [400, 0.044],
  [500, 0.0578],
  [630, 0.0653],
  [800, 0.0711],
  [1_000, 0.0818],
  [1_250, 0.0844],
  [1_600, 0.0882],
  [2_000, 0.0898],
  [2_500, 0.0868],
  [3_150, 0.0844],
  [4_000, 0.0771],
  [5_000, 0.0527],
  [6_300, 0.0364],
  [8_000, 0.0185],
]
/** 30 dB of speech count: from 15 dB under what masks it nothing comes through, from 15 dB over it everything. */
const REACH_DECIBELS = 15
/** Voices that are this much softer than their loudest moments rest. */
const RESTING_DECIBELS = -35

/**
 * The speech intelligibility index with the beat as the noise, averaged over the moments in which voices sound: 0 to 1. NaN if they never do.
 * Left out of the standard: the threshold of hearing and the spread of masking, for songs are played loud and this is to compare.
 * @param voices Of equal length with the beat.
 */
export function clarityOf(voices: Planar, beat: Planar): number {
  const beatSpectra = spectraOf(mixToMono(beat))
  const moments: { voice: number; clarity: number }[] = []
  for (const powers of spectraOf(mixToMono(voices))) {
    const noise = beatSpectra.next()
    const voice = powers.reduce((sum, power) => sum + power, 0)
    let clarity = 0
    for (const [hz, share] of IMPORTANCE) {
      const over = powerToDecibels(bandPower(powers, hz)) - powerToDecibels(noise.done ? 0 : bandPower(noise.value, hz))
      clarity += share * Math.max(0, Math.min(1, (over + REACH_DECIBELS) / (2 * REACH_DECIBELS)))
    }
    moments.push({ voice, clarity })
  }
  const loudest = moments.reduce((most, { voice }) => Math.max(most, voice), 0)
  const sung = moments.filter(({ voice }) => voice > 0 && powerToDecibels(voice / loudest) > RESTING_DECIBELS)
  return sung.reduce((sum, { clarity }) => sum + clarity, 0) / sung.length
}
