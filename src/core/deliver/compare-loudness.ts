/** How much louder one way of hearing a song is than another. */
import { LoudnessMeter } from '../loudness/loudness'
import type { MixPlan } from '../mix/plan'
import { renderOffline, type AssetStore } from '../mix/render-offline'
import type { FrameRange } from '../song/select'

/** @returns by how many decibels the second plan is louder over a range, by integrated loudness; 0 if either is silent. */
export async function compareLoudness(
  plans: readonly [MixPlan, MixPlan],
  range: FrameRange,
  store: AssetStore,
  onProgress: (fraction: number) => void,
): Promise<number> {
  const loudness: number[] = []
  for (const [i, plan] of plans.entries()) {
    const meter = new LoudnessMeter(2)
    await renderOffline({ plan, store, range, sink: planes => meter.push(planes), onProgress: fraction => onProgress((i + fraction) / 2) })
    loudness.push(meter.read().integratedLufs)
  }
  const difference = loudness[1] - loudness[0]
  return Number.isFinite(difference) ? difference : 0
}
