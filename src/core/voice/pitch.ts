/** The pitch of a sung or spoken take: candidates, a path through them, and a fine reading of each voiced frame. */
import type { Mono } from '../audio/frames'
import { halveRate } from '../audio/halve-rate'
import { HALF_RATE_HZ, hearThrough } from './hear-through'
import { HOP_SECONDS } from './hop'
import { CANDIDATES, CANDIDATE_RATE_HZ, candidateScore, findCandidates, type Candidates } from './periodicity'
import { framePowers, gateOf } from './level'
import { findBackground } from './background'
import { refinePitch } from './pitch-refine'
import { maxOf, runsOf, type Run } from './runs'

export interface PitchTrack {
  hopSeconds: number
  /** The pitch at i hops; 0 where there is none. */
  f0Hz: Float32Array<ArrayBuffer>
  /** How surely the frame repeats itself, 0..1; near 0 where there is no pitch. */
  clarity: Float32Array<ArrayBuffer>
}

/**
 * @param voice One channel at 48 kHz. Silence, an empty take and noise give no pitch at all.
 * @see P. Boersma 1993 (as in periodicity.ts) for the path's costs; the costs here were set on the practice singer and on noise,
 * hum and leaking beats mixed to it.
 */
export function trackPitch(voice: Mono, onProgress: (fraction: number) => void = () => {}, heard = hearThrough(voice)): PitchTrack {
  const { raw, clean, leastPower } = heard
  const isClean = clean === raw
  const quarter = halveRate(clean)
  const rawQuarter = isClean ? quarter : halveRate(raw)
  const power = framePowers(quarter, CANDIDATE_RATE_HZ)
  const gate = gateOf(power)
  gate.leastPower = Math.max(gate.leastPower, leastPower)
  const candidates = findCandidates(quarter, power, gate, fraction => onProgress(0.7 * fraction))
  const path = findPath(candidates, power, gate.leastPower)
  const track = refinePitch(clean, quarter, HALF_RATE_HZ, path, power, gate.leastPower, isClean ? null : rawQuarter)
  // What is left of a steady room is no music, and softly sung words are no louder.
  if (!heard.isSteadyRoom) dropBackground(track, isClean ? power : framePowers(rawQuarter, CANDIDATE_RATE_HZ))
  if (!isClean) dropLeftovers(track, power, leastPower)
  onProgress(1)
  return { hopSeconds: HOP_SECONDS, ...track }
}

/** Where music leaks in between the phrases, runs that are no louder than it has its pitch, not the singer's. Changed in place. */
function dropBackground({ f0Hz, clarity }: { f0Hz: Float32Array; clarity: Float32Array }, power: Float32Array): void {
  const { backgroundPower, loudPower } = findBackground(f0Hz, power)
  for (const { from, to } of runsOf(f0Hz.length, frame => f0Hz[frame] > 0)) {
    const top = maxOf(power, from, to)
    if (top >= ABOVE_BACKGROUND * backgroundPower || top > loudPower) continue
    f0Hz.fill(0, from, to)
    clarity.fill(0, from, to)
  }
}

const ABOVE_BACKGROUND = 10

/** What is left of noise has a pitch for so long at most, stands so little above the power below which nothing is voice, and alone. */
const MOST_LEFTOVER_SECONDS = 0.08
const ABOVE_LEAST = 8
const ALONE_SECONDS = 0.05

/** Noise that was taken off leaves short tones of its own. Changed in place. */
function dropLeftovers({ f0Hz, clarity }: { f0Hz: Float32Array; clarity: Float32Array }, power: Float32Array, leastPower: number): void {
  const alone = ALONE_SECONDS / HOP_SECONDS
  const runs = runsOf(f0Hz.length, frame => f0Hz[frame] > 0)
  const isWeak = ({ from, to }: Run) => (to - from) * HOP_SECONDS <= MOST_LEFTOVER_SECONDS && maxOf(power, from, to) < ABOVE_LEAST * leastPower
  runs.forEach((run, i) => {
    const near = (other: Run | undefined) => other !== undefined && !isWeak(other) && Math.max(other.from - run.to, run.from - other.to) <= alone
    if (!isWeak(run) || near(runs[i - 1]) || near(runs[i + 1])) return
    f0Hz.fill(0, run.from, run.to)
    clarity.fill(0, run.from, run.to)
  })
}

/** Costs a step of the path; Boersma's, for steps of 5 ms. */
const VOICING_THRESHOLD = 0.45
const OCTAVE_JUMP_COST = 0.7
const VOICING_CHANGE_COST = 0.28

/** The best path through candidates and silence; frames below the least power are silence. @returns hertz, 0 for silence. */
function findPath(candidates: Candidates, power: Float32Array, leastPower: number): Float32Array {
  const { frames } = candidates
  const states = CANDIDATES + 1
  const from = new Uint8Array(frames * states)
  let cost = new Float64Array(states)
  let next = new Float64Array(states)
  const logs = new Float64Array(states)
  const logsBefore = new Float64Array(states)
  for (let frame = 0; frame < frames; frame++) {
    const at = frame * CANDIDATES
    // The last state is silence. A frame near the gate leans towards it.
    const margin = power[frame] / leastPower
    for (let s = 0; s < CANDIDATES; s++) logs[s] = candidates.f0Hz[at + s] > 0 ? Math.log2(candidates.f0Hz[at + s]) : NaN
    for (let s = 0; s < states; s++) {
      const silent = s === CANDIDATES
      let gain = silent ? VOICING_THRESHOLD + (margin < 1 ? 2 : margin < 4 ? 0.15 * (2 - Math.log2(margin)) : 0) : -Infinity
      if (!silent && logs[s] === logs[s]) gain = candidateScore(candidates, at + s)
      let best = -Infinity
      let bestFrom = CANDIDATES
      if (gain > -Infinity) {
        for (let b = 0; b < states; b++) {
          if (frame > 0 && cost[b] === -Infinity) continue
          const change =
            frame === 0 ? 0 : silent !== (b === CANDIDATES) ? VOICING_CHANGE_COST : silent ? 0 : OCTAVE_JUMP_COST * Math.abs(logs[s] - logsBefore[b])
          const total = (frame === 0 ? 0 : cost[b]) - change
          if (total > best) {
            best = total
            bestFrom = b
          }
        }
      }
      next[s] = best + gain
      from[frame * states + s] = bestFrom
    }
    ;[cost, next] = [next, cost]
    logsBefore.set(logs)
  }
  const f0Hz = new Float32Array(frames)
  let state = cost.indexOf(Math.max(...cost))
  for (let frame = frames - 1; frame >= 0; frame--) {
    f0Hz[frame] = state === CANDIDATES ? 0 : candidates.f0Hz[frame * CANDIDATES + state]
    state = from[frame * states + state]
  }
  return f0Hz
}
