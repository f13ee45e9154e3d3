/** What a microphone tells before anything is recorded: the room's floor and hum, how loud the loudest is, esses and pops. */
import { gainToDecibels, peakOf, powerToDecibels, rmsOf } from '../audio/decibels'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { TruePeakMeter } from '../loudness/true-peak'
import { filtered, highPass, lowPass } from '../effects/biquad'
import { median } from '../audio/statistics'
import { analyseVoice } from './analyse-voice'
import { findClipping } from './clipping'
import { findHum } from './hum'
import { framePowers } from './level'
import { runsOf } from './runs'

export interface RoomCheck {
  /** How long the microphone was heard without a break: the room's floor, its hum and voices are read from that. */
  unbrokenSeconds: number
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
  const unbroken = longestUnbroken(captured)
  const meter = new TruePeakMeter()
  meter.push(captured)
  const voice = sorted[Math.floor(0.85 * (sorted.length - 1))] ?? 0
  const highs = bandPower(captured, highPass(ESSES_HZ))
  const lows = bandPower(captured, lowPass(THUMP_HZ))
  const esses = Float32Array.from(highs).sort()[Math.floor(0.97 * (highs.length - 1))] ?? 0
  // A thump is nearly all below the voice.
  const thumps = runsOf(power.length, frame => lows[frame] > LEAST_THUMP && lows[frame] > 0.5 * power[frame])
  const hum = findHum(unbroken)
  return {
    unbrokenSeconds: unbroken.length / SAMPLE_RATE_HZ,
    floorDbfs: powerToDecibels(floorPower(unbroken)),
    hum,
    peakDbfs: gainToDecibels(peakOf(captured)),
    truePeakDbtp: gainToDecibels(meter.peak),
    clips: findClipping(captured).length,
    essesDecibels: voice > LEAST_VOICE ? powerToDecibels(esses / voice) : null,
    pops: thumps.length,
    voiceHeard: isVoiceHeard(unbroken, hum),
  }
}

/** Whole periods of either mains, so that hum is as loud in every window. */
const FLOOR_WINDOW_FRAMES = SAMPLE_RATE_HZ / 10

/** Mean power of the quieter half of the windows. */
function floorPower(room: Mono): number {
  const windows = Array.from(
    { length: Math.max(1, Math.floor(room.length / FLOOR_WINDOW_FRAMES)) },
    (_, i) => rmsOf(room.subarray(i * FLOOR_WINDOW_FRAMES, (i + 1) * FLOOR_WINDOW_FRAMES)) ** 2,
  ).sort((a, b) => a - b)
  const quieter = windows.slice(0, Math.max(1, windows.length >> 1))
  return quieter.reduce((sum, power) => sum + power, 0) / quieter.length
}

/**
 * Where the machine stalls, whole blocks come as digital silence. Without them the room would seem quieter than it is. Silence for most of the
 * time is a microphone that is off or gated, and counts.
 */
function longestUnbroken(captured: Mono): Mono {
  const blocks = Math.floor(captured.length / BLOCK_FRAMES)
  const runs = runsOf(blocks, block => captured.subarray(block * BLOCK_FRAMES, (block + 1) * BLOCK_FRAMES).some(sample => sample !== 0))
  const heardBlocks = runs.reduce((sum, { from, to }) => sum + to - from, 0)
  if (heardBlocks === blocks || heardBlocks < blocks / 2) return captured
  const longest = runs.reduce((best, run) => (run.to - run.from > best.to - best.from ? run : best))
  return captured.slice(longest.from * BLOCK_FRAMES, longest.to * BLOCK_FRAMES)
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
  return framePowers(filtered(captured, coefficients), SAMPLE_RATE_HZ)
}
