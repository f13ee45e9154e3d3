/** How a changed plan is told: all of it, or only what moved. */
import { isSameShape, levelsOf } from '../core/mix/levels'
import { withoutKnown } from '../core/mix/packed-plan'
import type { MixPlan } from '../core/mix/plan'
import type { ToMix } from './messages'

/** @param former What the other side has; null if nothing. */
export function planMessage(plan: MixPlan, former: MixPlan | null): Extract<ToMix, { kind: 'plan' | 'levels' }> {
  if (former && isSameShape(plan, former)) return { kind: 'levels', levels: levelsOf(plan) }
  return { kind: 'plan', plan: withoutKnown(plan, former) }
}
