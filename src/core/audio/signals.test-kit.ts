/** Signals with known answers, for tests. */
import type { Mono } from './frames'

export function sine({
  hz,
  frames,
  sampleRateHz = 48_000,
  amplitude = 1,
  phase = 0,
}: {
  hz: number
  frames: number
  sampleRateHz?: number
  amplitude?: number
  phase?: number
}): Mono {
  return Float32Array.from({ length: frames }, (_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / sampleRateHz + phase))
}

export function decibelsBetween(a: Float32Array, b: Float32Array): number {
  let worst = 0
  for (let i = 0; i < Math.max(a.length, b.length); i++) worst = Math.max(worst, Math.abs((a[i] ?? 0) - (b[i] ?? 0)))
  return 20 * Math.log10(worst)
}
