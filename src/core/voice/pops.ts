/** Pops: the breath of a p or b that strikes the microphone, a thump far below the voice that comes at once and dies away. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { quantile } from '../audio/statistics'
import { filtered, highPass, lowPass } from '../effects/biquad'
import { HOP_SECONDS } from './hop'
import { framePowers } from './level'
import type { Stretch } from './phrases'
import { maxOf } from './runs'

const THUMP_BELOW_HZ = 80
const REACH_HALF_HOPS = 2
const HOP_FRAMES = HOP_SECONDS * SAMPLE_RATE_HZ
/** Against the loud voice. */
const BELOW_LOUD = 10 ** -1.4
/** It rises by so much within so long, and falls by as much again from its top. */
const RISE = 10 ** 1.4
const RISE_HOPS = 6
const BEFORE_HOPS = 10
const FALL = 10 ** 1.2
const MOST_SECONDS = 0.2
/** Breath that strikes swings once at least: a single pulse of a creaking voice is shorter. */
const LEAST_SECONDS = 0.04
/** What a beat that leaks in, or steps, do elsewhere in the take is no pop, unless this is louder. */
const ABOVE_OTHERS = 4
/** Wind, traffic and rumble swing by as much all the time: a pop stands out of what lies down there for most of the take. */
const ABOVE_RUMBLE = 16
const RUMBLE_SHARE = 0.75

/**
 * @param voice One channel at 48 kHz. @param power By hop, without rumble. @param backgroundPeakPower Of music that leaks in; 0 for none.
 * @returns in order, each from where it strikes to where it has died away.
 */
export function findPops(voice: Mono, power: Float32Array, backgroundPeakPower: number): Stretch[] {
  const thump = framePowers(filtered(voice, lowPass(THUMP_BELOW_HZ), lowPass(THUMP_BELOW_HZ)), SAMPLE_RATE_HZ, REACH_HALF_HOPS)
  const loud = quantile(power, 0.95)
  const least = Math.max(BELOW_LOUD * loud, ABOVE_OTHERS * backgroundPeakPower, ABOVE_RUMBLE * quantile(thump, RUMBLE_SHARE), 1e-7)
  const most = Math.round(MOST_SECONDS / HOP_SECONDS)
  const pops: Stretch[] = []
  for (let hop = 1; hop < thump.length; hop++) {
    if (thump[hop] < least || thump[hop] < RISE * medianBefore(thump, hop)) continue
    let top = hop
    while (top + 1 < thump.length && thump[top + 1] > thump[top]) top++
    top = argMax(thump, hop, Math.min(thump.length, top + RISE_HOPS))
    const end = fallsBy(thump, top, most)
    if (end === null) {
      hop = top
      continue
    }
    const start = strikesAt(thump, hop, maxOf(thump, hop, end))
    if ((end - start) * HOP_SECONDS >= LEAST_SECONDS) pops.push({ startSeconds: start * HOP_SECONDS, endSeconds: end * HOP_SECONDS })
    hop = end
  }
  return pops
}

/** Where less of a pop than this lies above it, nobody sings but the thump. */
const SINGS_ABOVE_HZ = 300
const SINGS_SHARE = 0.02
/** A thump's own swing is read as a pitch up to here. */
const THUMP_PITCH_BELOW_HZ = 95

/** A thump rings on below what ends it. */
const RINGS_SECONDS = 0.1

/** Mean power by hop, from a pop's first until it rings no more: of all of it, and of what lies above the thump. */
export interface Struck {
  from: number
  all: Float32Array
  sung: Float32Array
}

export function measurePops(voice: Mono, pops: readonly Stretch[]): Struck[] {
  return pops.map(({ startSeconds, endSeconds }) => {
    const [from, to] = [startSeconds, endSeconds + RINGS_SECONDS].map(seconds => Math.round(seconds / HOP_SECONDS))
    const stretch = voice.subarray(from * HOP_FRAMES, (to + 1) * HOP_FRAMES)
    const [all, sung] = [stretch, filtered(stretch, highPass(SINGS_ABOVE_HZ), highPass(SINGS_ABOVE_HZ))].map(sound => framePowers(sound, SAMPLE_RATE_HZ))
    return { from, all, sung }
  })
}

/** Power by hop with no more of a pop than lies above its thump. */
export function withoutThumps(power: Float32Array, struck: readonly Struck[]): Float32Array<ArrayBuffer> {
  const left = Float32Array.from(power)
  for (const { from, sung } of struck) sung.forEach((above, i) => (left[from + i] = Math.min(left[from + i], above)))
  return left
}

/** A pop after a word sounds like a very low note that glides away. Changed in place. */
export function dropThumpPitch({ f0Hz, clarity }: { f0Hz: Float32Array; clarity: Float32Array }, struck: readonly Struck[]): void {
  for (const { from, all, sung } of struck) {
    sung.forEach((power, i) => {
      if (!(f0Hz[from + i] < THUMP_PITCH_BELOW_HZ) || power >= SINGS_SHARE * all[i]) return
      f0Hz[from + i] = 0
      clarity[from + i] = 0
    })
  }
}

function medianBefore(thump: Float32Array, hop: number): number {
  const before = thump.slice(Math.max(0, hop - RISE_HOPS - BEFORE_HOPS), Math.max(0, hop - RISE_HOPS) + 1).sort()
  return before[before.length >> 1] + 1e-12
}

function argMax(values: Float32Array, from: number, to: number): number {
  let best = from
  for (let i = from; i < to; i++) if (values[i] > values[best]) best = i
  return best
}

/** Where it has fallen from its top, or null if it goes on: a low note. */
function fallsBy(thump: Float32Array, top: number, most: number): number | null {
  for (let hop = top; hop < Math.min(thump.length, top + most); hop++) if (thump[hop] * FALL < thump[top]) return hop
  return top + most >= thump.length ? thump.length : null
}

/** The low pass is late and slow: it strikes where a hundredth of its top is there. */
function strikesAt(thump: Float32Array, hop: number, top: number): number {
  let start = hop
  while (start > 0 && hop - start < RISE_HOPS && thump[start - 1] > top / 100) start--
  return Math.max(0, start - 1)
}
