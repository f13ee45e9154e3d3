/** A space in the renderer: what it is sent, and its answer. Costs nothing until something is sent into it. */
import { Glide } from '../effects/glide'
import type { Space } from '../effects/space'
import { clear, makePair, type Pair } from './bus'
import type { BusId, SpacePlan } from './plan'
import { makeSpace, type SpaceSettings } from './spaces'

export class SpaceUnit {
  readonly key: string
  readonly into: BusId
  private readonly input = makePair()
  private readonly space: Space<SpaceSettings>
  private readonly gain: Glide
  /** Nothing was sent into it yet: it has no answer. */
  private isFed = false

  constructor(plan: SpacePlan, fadeIn = false) {
    this.key = keyOf(plan)
    this.into = plan.into
    this.space = makeSpace(plan.settings)
    this.gain = new Glide(fadeIn ? 0 : plan.gain)
    if (fadeIn) this.gain.set(plan.gain)
  }

  set(plan: SpacePlan): void {
    // Nothing of what rang when it went is left.
    if (this.isGone) this.reset()
    this.space.set(plan.settings)
    this.gain.set(plan.gain)
  }

  setGain(gain: number): void {
    this.gain.set(gain)
  }

  /** Fades out. */
  leave(): void {
    this.gain.set(0)
  }

  /** Whether nothing of it is heard, now and in the next block. */
  get isGone(): boolean {
    return this.gain.from === 0 && this.gain.to === 0 && this.gain.isSettled
  }

  reset(): void {
    this.space.reset()
    this.gain.settle()
    clear(this.input)
    this.isFed = false
  }

  /** Adds to what it is sent. */
  feed(): Pair {
    this.isFed = true
    return this.input
  }

  begin(): void {
    if (this.isFed) clear(this.input)
    this.gain.advance()
  }

  answerInto([left, right]: Pair): void {
    if (this.isFed && !this.isGone) this.space.addInto(left, right, this.input[0], this.input[1], this.gain.from, this.gain.to)
  }
}

/** One that becomes of another kind, or answers elsewhere, is another. */
export function keyOf({ id, settings, into }: SpacePlan): string {
  return `${id} ${settings.kind} ${into}`
}
