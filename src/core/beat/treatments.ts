/** Colours for a stretch of a beat: softer, thinner, far away, off a worn tape. None makes it louder. */
import { decibelsToGain, powerToDecibels } from '../audio/decibels'
import type { Planar } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { integratedLufs } from '../loudness/loudness'
import { highPass, StereoBiquad, lowPass } from '../effects/biquad'
import type { TreatmentKind } from './treatment-kinds'

export interface TreatmentOptions {
  kind: TreatmentKind
  /** 0 changes nothing you would notice, 1 is as far as it goes. */
  amount: number
  /** The treatment comes in and goes out over this many frames, inside the stretch. */
  fadeFrames: number
}

/** The treated stretch: as long as it was, and at its first and last frame as it was, so that it can be spliced in. */
export function treat(planes: Planar, { kind, amount, fadeFrames }: TreatmentOptions): Planar {
  const wet = PROCESSES[kind](
    planes.map(plane => plane.slice()),
    amount,
  )
  const { length } = planes[0]
  const fade = Math.max(1, Math.min(fadeFrames, length >> 1))
  return planes.map((dry, c) =>
    dry.map((sample, i) => {
      const share = Math.min(1, i / fade, (length - 1 - i) / fade)
      return sample + share * (wet[c][i] - sample)
    }),
  )
}

const PROCESSES: Record<TreatmentKind, (planes: Planar, amount: number) => Planar> = {
  level: (planes, amount) => scale(planes, decibelsToGain(levelDecibels(amount))),
  /** 24 dB an octave below 60 to 900 Hz. */
  'low cut': (planes, amount) => filter(planes, [highPass(60 * 15 ** amount, 0.541), highPass(60 * 15 ** amount, 1.307)]),
  /** Highs and lows go, the sides come together, and it is softer. */
  'far away': (planes, amount) => {
    const cut = 9_000 * (1 / 12) ** amount
    const filtered = filter(planes, [lowPass(cut, 0.541), lowPass(cut, 1.307), highPass(60 + 240 * amount)])
    if (filtered.length === 2) {
      const [left, right] = filtered
      const side = 1 - 0.8 * amount
      for (let i = 0; i < left.length; i++) {
        const [mid, wide] = [(left[i] + right[i]) / 2, ((left[i] - right[i]) / 2) * side]
        left[i] = mid + wide
        right[i] = mid - wide
      }
    }
    return scale(filtered, decibelsToGain(-5 * amount))
  },
  /** Soft saturation, duller, a little unsteady, some hiss; as loud as it was. */
  'worn tape': (planes, amount) => {
    const drive = 1 + 3 * amount
    const saturated = planes.map(plane => plane.map(sample => Math.tanh(drive * sample) / Math.tanh(drive)))
    const dull = filter(wow(saturated, amount), [lowPass(16_000 * 0.3 ** amount, 0.7)])
    const random = makeRandom(17)
    const hiss = 0.0016 * amount
    return asLoudAs(dull, planes).map(plane => plane.map(sample => sample + hiss * gaussian(random)))
  },
}

/** Least level of the colour "level", in decibels. */
export const LOWEST_LEVEL_DECIBELS = -24

/** What an amount of the colour "level" does, in decibels. */
export function levelDecibels(amount: number): number {
  return LOWEST_LEVEL_DECIBELS * amount
}

function asLoudAs(planes: Planar, wanted: Planar): Planar {
  const [is, should] = [planes, wanted].map(loudnessOf)
  return Number.isFinite(is) && Number.isFinite(should) ? scale(planes, decibelsToGain(should - is)) : planes
}

/** By ear; of a stretch that is too short for that, by its power. Decibels, minus infinity for silence. */
function loudnessOf(planes: Planar): number {
  const lufs = integratedLufs(planes)
  return Number.isFinite(lufs) ? lufs : powerToDecibels(Math.max(...planes.map(plane => plane.reduce((sum, x) => sum + x * x, 0) / plane.length)))
}

function scale(planes: Planar, gain: number): Planar {
  return planes.map(plane => plane.map(sample => sample * gain))
}

function filter(planes: Planar, stages: ReturnType<typeof highPass>[]): Planar {
  const [left, right = left.slice()] = planes
  for (const stage of stages) new StereoBiquad(stage).process(left, right)
  return planes.length === 2 ? [left, right] : [left]
}

/** Slow and quick unsteadiness of speed (wow and flutter) as a delay that swings about its mean; it begins and ends at no delay. */
function wow(planes: Planar, amount: number): Planar {
  const depth = 0.0012 * amount * SAMPLE_RATE_HZ
  return planes.map(plane =>
    plane.map((_, i) => {
      const t = i / SAMPLE_RATE_HZ
      const edge = Math.min(1, i / 9_600, (plane.length - 1 - i) / 9_600)
      const at = Math.max(0, i - edge * depth * (1 + 0.8 * Math.sin(2 * Math.PI * 0.55 * t) + 0.12 * Math.sin(2 * Math.PI * 6.3 * t)))
      const whole = Math.floor(at)
      const next = Math.min(plane.length - 1, whole + 1)
      return plane[whole] + (at - whole) * (plane[next] - plane[whole])
    }),
  )
}
