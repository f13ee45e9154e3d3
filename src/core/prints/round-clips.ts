/** Tops that the converter cut off, drawn anew: a makeshift, for what was there is lost. */
import type { Mono } from '../audio/frames'
import { MOST_CLICK_FRAMES, redrawClick } from './redraw-click'

/** Samples this near to the highest of the stretch were cut off there. */
const FLATNESS = 0.004
const LEAST_RUN = 2
/** No top is drawn higher than this above where it was cut, 6 dB. */
const MOST_ABOVE = 2

/**
 * Each flat top takes the form that its surroundings ask for, and never lies below where it was cut.
 * @param voice One channel, changed in place from `startFrame` to `endFrame`.
 */
export function roundClips(voice: Mono, startFrame: number, endFrame: number): void {
  const [from, to] = [Math.max(0, startFrame), Math.min(voice.length, endFrame)]
  let top = 0
  for (let i = from; i < to; i++) top = Math.max(top, Math.abs(voice[i]))
  const level = top * (1 - FLATNESS)
  const runs: { from: number; to: number; cut: Mono }[] = []
  for (let i = from; i < to; i++) {
    if (Math.abs(voice[i]) < level) continue
    let end = i + 1
    while (end < to && Math.abs(voice[end]) >= level && voice[end] * voice[i] > 0) end++
    if (end - i >= LEAST_RUN && end - i <= MOST_CLICK_FRAMES) runs.push({ from: i, to: end, cut: voice.slice(i, end) })
    i = end
  }
  // What was drawn of one top says more of the next than its flat did.
  for (let round = 0; round < 2; round++) {
    for (const run of runs) {
      redrawClick(voice, run.from, run.to)
      for (let i = run.from; i < run.to; i++) {
        const cut = run.cut[i - run.from]
        const drawn = cut > 0 ? voice[i] : -voice[i]
        voice[i] = Math.sign(cut) * Math.max(Math.abs(cut), Math.min(MOST_ABOVE * top, drawn))
      }
    }
  }
}
