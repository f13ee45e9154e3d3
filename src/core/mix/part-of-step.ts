/** A step, done by a part: how far each of its settings goes when a recipe is not taken whole. */
import type { Step } from '../effects/chain'

/** Where a cut does as good as nothing. */
const OPEN = { lowHz: 20, highHz: 20_000 } as const

/** @param amount 0..1. At 1 the step itself; towards 0 it does less and less, and at 0 nothing that is heard. */
export function partOfStep(step: Step, amount: number): Step {
  if (amount >= 1) return step
  const part = (value: number) => amount * value
  /** Between two frequencies, as the ear counts them. */
  const between = (openHz: number, hz: number) => openHz * (hz / openHz) ** amount
  switch (step.kind) {
    case 'low-cut':
      return { ...step, cutoffHz: between(OPEN.lowHz, step.cutoffHz) }
    case 'high-cut':
      return { ...step, cutoffHz: between(OPEN.highHz, step.cutoffHz) }
    case 'gate':
    case 'de-esser':
    case 'dynamic-band':
      return { ...step, rangeDecibels: part(step.rangeDecibels) }
    case 'compressor':
      return { ...step, ratio: 1 + part(step.ratio - 1), makeupDecibels: part(step.makeupDecibels) }
    case 'equaliser':
      return {
        ...step,
        lowShelfDecibels: part(step.lowShelfDecibels),
        lowBellDecibels: part(step.lowBellDecibels),
        highBellDecibels: part(step.highBellDecibels),
        highShelfDecibels: part(step.highShelfDecibels),
      }
    case 'saturation':
      return { ...step, amountFraction: part(step.amountFraction), outputDecibels: part(step.outputDecibels) }
    case 'air':
      return { ...step, gainDecibels: part(step.gainDecibels) }
    case 'wash':
      return { ...step, mixFraction: part(step.mixFraction) }
    case 'width':
      return { ...step, widthFraction: 1 + part(step.widthFraction - 1), middleBelowHz: between(OPEN.lowHz, step.middleBelowHz) }
    case 'limiter':
      return { ...step, ceilingDbfs: part(step.ceilingDbfs) }
  }
}
