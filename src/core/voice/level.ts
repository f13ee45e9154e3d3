/** How loud a take is from moment to moment, how quiet its room is, and where nobody sings. */
import type { Mono } from '../audio/frames'
import { powerToDecibels } from '../audio/decibels'
import { HOP_SECONDS } from './hop'

/** Windows of 25 ms: this many half hops to either side. */
const REACH_HALF_HOPS = 5

/**
 * Mean power round every hop; frame i is centred on i hops.
 * @param sampleRateHz A multiple of 400, so that half a hop is whole. @param reachHalfHops Half the window's length; 25 ms windows by itself.
 */
export function framePowers(voice: Mono, sampleRateHz: number, reachHalfHops = REACH_HALF_HOPS): Float32Array<ArrayBuffer> {
  const half = (HOP_SECONDS * sampleRateHz) / 2
  const energies = new Float64Array(Math.ceil(voice.length / half))
  for (let bin = 0; bin < energies.length; bin++) {
    energies[bin] = energyOf(voice, bin * half, Math.min(voice.length, (bin + 1) * half))
  }
  const power = new Float32Array(Math.floor(voice.length / (2 * half)) + 1)
  for (let frame = 0; frame < power.length; frame++) {
    const from = Math.max(0, 2 * frame - reachHalfHops)
    const to = Math.min(energies.length, 2 * frame + reachHalfHops)
    let sum = 0
    for (let bin = from; bin < to; bin++) sum += energies[bin]
    const samples = Math.min(voice.length, to * half) - from * half
    power[frame] = samples > 0 ? sum / samples : 0
  }
  return power
}

/** In four sums side by side: one alone waits for each addition before the next. */
function energyOf(voice: Mono, from: number, to: number): number {
  let [s0, s1, s2, s3] = [0, 0, 0, 0]
  let i = from
  for (; i + 3 < to; i += 4) {
    s0 += voice[i] * voice[i]
    s1 += voice[i + 1] * voice[i + 1]
    s2 += voice[i + 2] * voice[i + 2]
    s3 += voice[i + 3] * voice[i + 3]
  }
  for (; i < to; i++) s0 += voice[i] * voice[i]
  return s0 + s1 + s2 + s3
}

export interface Gate {
  /** Below this power a frame is no voice. */
  leastPower: number
  /** Up to 200 of the quietest frames that are not digital silence, spread over the take. */
  quietFrames: number[]
  noisePower: number
}

const FLOOR_FRACTION = 0.1
const LOUD_FRACTION = 0.95
/** A voice stands this far above the room, and no part of it lies further than this below its loud parts. */
const ABOVE_FLOOR = 10 ** 0.5
const BELOW_LOUD = 10 ** -3.4
const MOST_QUIET_FRAMES = 200

export function gateOf(power: Float32Array): Gate {
  const sounding: number[] = []
  for (let i = 0; i < power.length; i++) if (power[i] > 1e-12) sounding.push(i)
  if (sounding.length === 0) return { leastPower: Infinity, quietFrames: [], noisePower: 0 }
  sounding.sort((a, b) => power[a] - power[b])
  const loud = power[sounding[Math.min(sounding.length - 1, Math.floor(LOUD_FRACTION * sounding.length))]]
  const quietest = sounding.slice(0, Math.max(1, Math.floor(FLOOR_FRACTION * sounding.length)))
  const noisePower = quietest.reduce((sum, frame) => sum + power[frame], 0) / quietest.length
  // A take without a pause has no quiet frames, and one whose pauses are digital silence no others: its softest ones are voice.
  const hasPauses = noisePower < loud / 30 && power.length - sounding.length < FLOOR_FRACTION * power.length
  const every = Math.max(1, Math.ceil(quietest.length / MOST_QUIET_FRAMES))
  return {
    leastPower: Math.max(BELOW_LOUD * loud, hasPauses ? ABOVE_FLOOR * noisePower : 0, 1e-10),
    quietFrames: hasPauses ? quietest.filter((_, i) => i % every === 0) : [],
    noisePower,
  }
}

/** Level of the room in dBFS (root mean square): the quietest tenth of what is not digital silence; -Infinity if all is. */
export function noiseFloorDbfs(power: Float32Array): number {
  const { noisePower } = gateOf(power)
  return powerToDecibels(noisePower)
}
