/** A passage at half speed and the same pitch, to hear whether the click sits on the stroke. */
import type { Mono } from '../audio/frames'
import { hannWindow } from '../audio/window'
import { addClickInto } from './click'
import { framesPerBeat, frameOfBeat, type Grid } from './grid'

const WINDOW = 2_048
const HOP = WINDOW / 2
/** How far a window may be moved to run on smoothly, and how finely that is looked for. */
const REACH = 512
const STEP = 4

/**
 * Waveform-similarity overlap-add: windows are laid twice as far apart as they are taken, each moved to where it runs on from the one before.
 * @see W. Verhelst and M. Roelands, An overlap-add technique based on waveform similarity, ICASSP 1993.
 */
function atHalfSpeed(signal: Mono): Mono {
  const out = new Float32Array(2 * signal.length)
  const window = hannWindow(WINDOW)
  let from = 0
  for (let at = 0; at + WINDOW <= out.length; at += HOP) {
    const wanted = at / 2
    // What would follow the last window if the sound ran on at its own speed.
    if (at > 0) from = bestPlace(signal, from + HOP, wanted)
    for (let i = 0; i < WINDOW && from + i < signal.length; i++) out[at + i] += window[i] * signal[from + i]
  }
  return out
}

function bestPlace(signal: Mono, runsOn: number, wanted: number): number {
  let best = Math.min(signal.length - 1, wanted)
  let bestSum = -Infinity
  for (let place = Math.max(0, wanted - REACH); place <= wanted + REACH; place += STEP) {
    let sum = 0
    for (let i = 0; i < HOP && runsOn + i < signal.length && place + i < signal.length; i += STEP) sum += signal[runsOn + i] * signal[place + i]
    if (sum > bestSum) [best, bestSum] = [place, sum]
  }
  return best
}

/** The passage from `startFrame` on at half speed, with the grid's click, also half as fast, over it. */
export function flamTest(passage: Mono, grid: Grid, startFrame: number, clickGain: number): Mono {
  const slow = atHalfSpeed(passage)
  const firstBeat = Math.ceil((startFrame - grid.barOneFrame) / framesPerBeat(grid)) - 1
  const beats = Math.ceil(passage.length / framesPerBeat(grid)) + 3
  const frames = Array.from({ length: beats }, (_, i) => 2 * (frameOfBeat(grid, firstBeat + i) - startFrame))
  addClickInto(slow, new Float32Array(slow.length), { ...grid, map: { firstBeat, frames } }, 0, clickGain)
  return slow
}
