/** More than two channels to two. */
import type { Planar } from './frames'

const SIDE = Math.SQRT1_2
/** Left and right shares by channel, in the order of WAVE: L R C LFE Lb Rb Ls Rs. The low-frequency channel is left out. */
const LAYOUTS: Record<number, [number, number][]> = {
  3: [
    [1, 0],
    [0, 1],
    [SIDE, SIDE],
  ],
  4: [
    [1, 0],
    [0, 1],
    [SIDE, 0],
    [0, SIDE],
  ],
  5: [
    [1, 0],
    [0, 1],
    [SIDE, SIDE],
    [SIDE, 0],
    [0, SIDE],
  ],
  6: [
    [1, 0],
    [0, 1],
    [SIDE, SIDE],
    [0, 0],
    [SIDE, 0],
    [0, SIDE],
  ],
  7: [
    [1, 0],
    [0, 1],
    [SIDE, SIDE],
    [0, 0],
    [0.5, 0.5],
    [SIDE, 0],
    [0, SIDE],
  ],
  8: [
    [1, 0],
    [0, 1],
    [SIDE, SIDE],
    [0, 0],
    [SIDE, 0],
    [0, SIDE],
    [SIDE, 0],
    [0, SIDE],
  ],
}

/**
 * The same array for one or two channels. May exceed full scale.
 * @see Recommendation ITU-R BS.775-4, Annex 4 (centre and surrounds at 0.7071).
 */
export function mixDown(planes: Planar): Planar {
  const shares = LAYOUTS[planes.length]
  if (!shares) return planes.slice(0, 2)
  const mixed: Planar = [new Float32Array(planes[0].length), new Float32Array(planes[0].length)]
  shares.forEach((share, channel) => {
    for (let side = 0; side < 2; side++) {
      const gain = share[side]
      if (gain !== 0) for (let i = 0; i < planes[channel].length; i++) mixed[side][i] += gain * planes[channel][i]
    }
  })
  return mixed
}
