/** What a microphone tells before anything is recorded: the room's floor and hum, how loud the loudest is, esses and pops. */
import { gainToDecibels, peakOf, powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { TruePeakMeter } from '../loudness/true-peak'
import { highPass, lowPass, StereoBiquad } from '../effects/biquad'
import { median } from '../audio/statistics'
import { analyseVoice } from './analyse-voice'
import { findClipping } from './clipping'
import { findHum } from './hum'
import { framePowers } from './level'
import { runsOf } from './runs'

export interface RoomCheck {
  /** Root mean square of the quieter half of the time; -Infinity if nothing at all came in. */
  floorDbfs: number
  hum: { mainsHz: 50 | 60; levelDbfs: number } | null
  peakDbfs: number
  truePeakDbtp: number
  clips: number
  /** The strongest esses against the voice below them; above about -3 dB they sting. Null if no voice was heard. */
  essesDecibels: number | null
  /** Thumps of breath on the membrane. */
  pops: number
  /** Someone sang or spoke: the floor is not the room's. */
  voiceHeard: boolean
}

/** Where the loudest line should peak. */
export const GOOD_PEAK_DBFS = { from: -12, to: -6 } as const

const ESSES_HZ = 5_000
const THUMP_HZ = 90
const LEAST_THUMP = 10 ** -3.6
const LEAST_VOICE = 10 ** -5

/** @param captured A few seconds from the microphone, one channel at 48 kHz. */
export function checkRoom(captured: Mono): RoomCheck {
  const power = framePowers(captured, SAMPLE_RATE_HZ)
  const sorted = Float32Array.from(power).sort()
  const meter = new TruePeakMeter()
  meter.push(captured)
  const voice = sorted[Math.floor(0.85 * (sorted.length - 1))] ?? 0
  const highs = bandPower(captured, highPass(ESSES_HZ))
  const lows = bandPower(captured, lowPass(THUMP_HZ))
  const esses = Float32Array.from(highs).sort()[Math.floor(0.97 * (highs.length - 1))] ?? 0
  // A thump is nearly all below the voice.
  const thumps = runsOf(power.length, frame => lows[frame] > LEAST_THUMP && lows[frame] > 0.5 * power[frame])
  const hum = findHum(captured)
  return {
    floorDbfs: powerToDecibels(sorted.slice(0, Math.max(1, sorted.length >> 1)).reduce((sum, value) => sum + value, 0) / Math.max(1, sorted.length >> 1)),
    hum,
    peakDbfs: gainToDecibels(peakOf(captured)),
    truePeakDbtp: gainToDecibels(meter.peak),
    clips: findClipping(captured).length,
    essesDecibels: voice > LEAST_VOICE ? powerToDecibels(esses / voice) : null,
    pops: thumps.length,
    voiceHeard: isVoiceHeard(captured, hum),
  }
}

/** A voice is pitched for so long, and louder than what leaks from next door, and does not stay on the mains. */
const LEAST_VOICED_SECONDS = 0.2
const LEAST_VOICED_DBFS = -60
/** The pitch of hum under noise is read this exactly. */
const HUM_SPREAD = 0.03

function isVoiceHeard(captured: Mono, hum: RoomCheck['hum']): boolean {
  const isHum = (hz: number) => {
    if (hum === null) return false
    const harmonic = Math.max(1, Math.round(hz / hum.mainsHz))
    return Math.abs(hz / (harmonic * hum.mainsHz) - 1) < HUM_SPREAD
  }
  const { f0Hz, power, hopSeconds } = analyseVoice(captured)
  const voiced = Array.from(power).filter((_, i) => f0Hz[i] > 0 && !isHum(f0Hz[i]))
  return voiced.length * hopSeconds >= LEAST_VOICED_SECONDS && powerToDecibels(median(voiced)) > LEAST_VOICED_DBFS
}

function bandPower(captured: Mono, coefficients: ReturnType<typeof highPass>): Float32Array {
  const band = captured.slice()
  new StereoBiquad(coefficients).process(band, new Float32Array(captured.length))
  return framePowers(band, SAMPLE_RATE_HZ)
}
