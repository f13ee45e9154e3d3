/** How loud a take is from moment to moment, how quiet its room is, and where nobody sings. */
import type { Mono } from '../audio/frames'
import { powerToDecibels } from '../audio/decibels'
import { HOP_SECONDS } from './periodicity'

const WINDOW_SECONDS = 0.025

/** Mean power round every hop (25 ms windows); frame i is centred on i hops. */
export function framePowers(voice: Mono, sampleRateHz: number): Float32Array<ArrayBuffer> {
  const hop = HOP_SECONDS * sampleRateHz
  const reach = Math.round((WINDOW_SECONDS / 2) * sampleRateHz)
  const frames = Math.floor(voice.length / hop) + 1
  const sums = new Float64Array(voice.length + 1)
  for (let i = 0; i < voice.length; i++) sums[i + 1] = sums[i] + voice[i] * voice[i]
  return Float32Array.from({ length: frames }, (_, frame) => {
    const from = Math.max(0, frame * hop - reach)
    const to = Math.min(voice.length, frame * hop + reach)
    return to > from ? Math.max(0, sums[to] - sums[from]) / (to - from) : 0
  })
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
