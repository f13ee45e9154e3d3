/** The one sample rate of the inside, and the conversions between frames and seconds. */

/** Every buffer inside the app has this rate; imports and deliveries convert at the edge. */
export const SAMPLE_RATE_HZ = 48_000

/** Frames the renderer handles at once; the size of a Web Audio render quantum. */
export const BLOCK_FRAMES = 128

/** One channel of sound, usually within -1..1, whose memory is its own (it can be handed to another thread). */
export type Mono = Float32Array<ArrayBuffer>

/** Planar sound: one array a channel, all of one length. */
export type Planar = Mono[]

export function framesToSeconds(frames: number): number {
  return frames / SAMPLE_RATE_HZ
}

/** Whole frames, rounded to the nearest. */
export function secondsToFrames(seconds: number): number {
  return Math.round(seconds * SAMPLE_RATE_HZ)
}

/** The mean of all channels; the same array if there is only one. Not to be written to. */
export function mixToMono(planes: readonly Mono[]): Mono {
  if (planes.length === 1) return planes[0]
  const mono = new Float32Array(planes[0].length)
  if (planes.length === 2) {
    const [left, right] = planes
    for (let i = 0; i < mono.length; i++) mono[i] = 0.5 * (left[i] + right[i])
    return mono
  }
  for (const plane of planes) for (let i = 0; i < mono.length; i++) mono[i] += plane[i]
  for (let i = 0; i < mono.length; i++) mono[i] /= planes.length
  return mono
}

/** One sound after another. */
export function concatMono(first: Float32Array, second: Float32Array): Mono {
  const both = new Float32Array(first.length + second.length)
  both.set(first)
  both.set(second, first.length)
  return both
}
