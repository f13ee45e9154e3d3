/** The click: a short tick on every beat, higher on beat one. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { beatAtFrame, frameOfBeat, type Grid } from './grid'

const TICK_FRAMES = Math.round(0.03 * SAMPLE_RATE_HZ)
const ACCENT = makeTick(1_760)
const PLAIN = makeTick(1_175)

/**
 * Adds the click of the stretch that begins at a song frame into both channels. Beats before bar one click too, for the count-in.
 * Beat one is louder by `accentGain`.
 */
export function addClickInto(left: Float32Array, right: Float32Array, grid: Grid, startFrame: number, gain: number, accentGain = 1): void {
  const endFrame = startFrame + left.length
  for (let beat = Math.floor(beatAtFrame(grid, startFrame - TICK_FRAMES)); ; beat++) {
    const frame = frameOfBeat(grid, beat)
    if (frame >= endFrame) break
    const isOne = ((beat % grid.beatsPerBar) + grid.beatsPerBar) % grid.beatsPerBar === 0
    const tick = isOne ? ACCENT : PLAIN
    const level = isOne ? gain * accentGain : gain
    const from = Math.max(startFrame, frame)
    const to = Math.min(endFrame, frame + TICK_FRAMES)
    for (let i = from; i < to; i++) {
      const sample = tick[i - frame] * level
      left[i - startFrame] += sample
      right[i - startFrame] += sample
    }
  }
}

function makeTick(hz: number): Float32Array {
  return Float32Array.from({ length: TICK_FRAMES }, (_, i) => {
    const t = i / SAMPLE_RATE_HZ
    const attack = Math.min(1, i / 24)
    return attack * Math.exp(-t * 140) * Math.sin(2 * Math.PI * hz * t)
  })
}
