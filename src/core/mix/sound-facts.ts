/** What can be told of a finished sound, to hold two of them against each other. */
import { gainToDecibels, powerToDecibels } from '../audio/decibels'
import { mixToMono, type Mono, type Planar } from '../audio/frames'
import { bandPower, longTermPowers, thirdOctavesHz } from '../audio/third-octaves'
import { integratedLufs } from '../loudness/loudness'
import { TruePeakMeter } from '../loudness/true-peak'

export interface SoundFacts {
  lufs: number
  truePeakDbtp: number
  /** Thirds of an octave from 40 Hz to 16 kHz, in decibels against all of them together. */
  tone: { hz: number; decibels: number }[]
  /** How much of the power lies in the difference of both sides, 0 to 1, in three ranges: up to 250 Hz, up to 4 kHz, above. */
  width: { low: number; middle: number; high: number }
}

const TONE_HZ = { low: 40, high: 16_000 }
const WIDTH_EDGES_HZ = { low: 250, high: 4_000 }
const LEAST_DECIBELS = -80

/** @param planes Both sides, at 48 kHz. */
export function soundFacts(planes: Planar): SoundFacts {
  const [left, right] = [planes[0], planes.at(-1)!]
  const middle = longTermPowers(mixToMono([left, right]))
  const side = longTermPowers(left.map((value, i) => 0.5 * (value - right[i])) as Mono)
  const both = middle.map((power, bin) => power + side[bin])
  const bands = thirdOctavesHz(TONE_HZ.low, TONE_HZ.high).map(hz => ({ hz: Math.round(hz), power: bandPower(both, hz) }))
  const all = bands.reduce((sum, { power }) => sum + power, 0)
  const meter = new TruePeakMeter()
  for (const plane of [left, right]) meter.push(plane)
  const sideShare = (from: number, to: number) => {
    const within = thirdOctavesHz(TONE_HZ.low, TONE_HZ.high).filter(hz => hz >= from && hz < to)
    const sum = (powers: Float64Array) => within.reduce((total, hz) => total + bandPower(powers, hz), 0)
    return sum(both) > 0 ? sum(side) / sum(both) : 0
  }
  return {
    lufs: integratedLufs([left, right]),
    truePeakDbtp: gainToDecibels(meter.peak),
    tone: bands.map(({ hz, power }) => ({ hz, decibels: all > 0 ? Math.max(LEAST_DECIBELS, powerToDecibels(power / all)) : LEAST_DECIBELS })),
    width: {
      low: sideShare(0, WIDTH_EDGES_HZ.low),
      middle: sideShare(WIDTH_EDGES_HZ.low, WIDTH_EDGES_HZ.high),
      high: sideShare(WIDTH_EDGES_HZ.high, Infinity),
    },
  }
}
