/** A space in the renderer: what it is sent, and its answer. Costs nothing until something is sent into it. */
import { decibelsToGain } from '../audio/decibels'
import { Glide } from '../effects/glide'
import { isSameFlat } from '../effects/same'
import type { Space } from '../effects/space'
import { addScaled, clear, makePair, type Pair } from './bus'
import { stepAt, type Lane } from './lane'
import type { BusId, SpacePlan } from './plan'
import { Ride } from './ride'
import { Sends } from './sends'
import { makeSpace, type SpaceSettings } from './spaces'
import { VoiceShare } from './voice-share'

/** A word is over before its answer could be heard: the answer is held down at once. */
const DUCK_ATTACK_SECONDS = 0.005

function heldDown(decibels: number, share: number): number {
  return share === 0 ? 1 : decibelsToGain(-decibels * share)
}

export class SpaceUnit {
  readonly key: string
  readonly into: BusId
  private readonly sends = Sends.get()
  /** Its number among the renderer's spaces. */
  private at = 0
  /** Its answer by itself, where another space hears it too. */
  private readonly own = makePair()
  private readonly space: Space<SpaceSettings>
  private settings: SpaceSettings
  private delays: Lane
  private readonly gain: Glide
  private readonly ride: Ride
  /** By so many decibels it is held down while all of a voice sounds. */
  private readonly duck: Glide
  private readonly voices: VoiceShare
  /** Spaces that its answer goes into as well: one, and those before it while they fade out. */
  private feeds: { unit: SpaceUnit; gain: Glide }[] = []
  /** Nothing was sent into it yet: it has no answer. */
  private isFed = false

  constructor(plan: SpacePlan, fadeIn = false) {
    this.key = keyOf(plan)
    this.into = plan.into
    this.space = makeSpace(plan.settings)
    this.settings = plan.settings
    this.delays = plan.delays
    this.gain = new Glide(fadeIn ? 0 : plan.gain)
    this.ride = new Ride(plan.ride)
    this.duck = new Glide(plan.duck.decibels)
    this.voices = new VoiceShare(DUCK_ATTACK_SECONDS, plan.duck.releaseSeconds)
    if (fadeIn) this.gain.set(plan.gain)
  }

  set(plan: SpacePlan): void {
    // Nothing of what rang when it went is left.
    if (this.isGone) this.reset()
    if (!isSameFlat(plan.settings, this.settings)) this.space.set(plan.settings)
    this.settings = plan.settings
    this.delays = plan.delays
    this.gain.set(plan.gain)
    this.ride.set(plan.ride)
    this.duck.set(plan.duck.decibels)
    this.voices.set(plan.duck.releaseSeconds)
  }

  /** @param isNew It begins with what it feeds, and does not fade into it. */
  feedInto(unit: SpaceUnit | null, gain: number, isNew = false): void {
    for (const fed of this.feeds) fed.gain.set(fed.unit === unit ? gain : 0)
    if (!unit || this.feeds.some(fed => fed.unit === unit)) return
    const glide = new Glide(isNew ? gain : 0)
    glide.set(gain)
    this.feeds.push({ unit, gain: glide })
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

  private get isDucked(): boolean {
    return this.duck.to > 0 || !this.duck.isSettled
  }

  reset(): void {
    this.forget()
    this.gain.settle()
    this.ride.settle()
    for (const { gain } of this.feeds) gain.settle()
    this.duck.settle()
    this.voices.reset()
  }

  private forget(): void {
    this.space.reset()
    this.isFed = false
  }

  /** Between blocks. */
  number(at: number): void {
    this.at = at
  }

  /** Something goes into it: what `Sends` holds as its block. */
  take(gain: number, endGain: number): void {
    this.wake()
    this.sends.add(this.at, gain, endGain)
  }

  /** What lies there until the first block that it is sent is another renderer's. */
  private wake(): void {
    if (!this.isFed) clear(this.sends.inputOf(this.at))
    this.isFed = true
  }

  /** Another space's answer goes into it. */
  private takeAnswer(answer: Pair, gain: number, endGain: number): void {
    this.wake()
    addScaled(this.sends.inputOf(this.at), answer, gain, endGain)
  }

  /** One of the voices that go into it, by its peak. */
  hear(peak: number): void {
    if (this.isDucked) this.voices.hear(peak)
  }

  /** @param frame Where the block begins in the song. @param endFrame Where it ends. */
  begin(frame: number, endFrame: number): void {
    if (this.isFed) clear(this.sends.inputOf(this.at))
    if (this.delays.length > 0) this.space.setDelay?.(stepAt(this.delays, frame), !this.isFed)
    this.gain.advance()
    this.ride.advance(frame, endFrame)
    for (const fed of this.feeds) fed.gain.advance()
  }

  answerInto([left, right]: Pair): void {
    const { gain, ride, duck, voices, feeds, own } = this
    const [inLeft, inRight] = this.sends.inputOf(this.at)
    duck.advance()
    voices.advance()
    if (!this.isFed || this.isGone) return
    // It has ended: what is thrown next meets an empty space.
    if (ride.from === 0 && ride.to === 0) return this.forget()
    const from = gain.from * ride.from * heldDown(duck.from, voices.from)
    const to = gain.to * ride.to * heldDown(duck.to, voices.to)
    if (feeds.length === 0) return this.space.addInto(left, right, inLeft, inRight, from, to)
    clear(own)
    this.space.addInto(own[0], own[1], inLeft, inRight, from, to)
    addScaled([left, right], own, 1, 1)
    for (const { unit, gain: level } of feeds) if (level.from > 0 || level.to > 0) unit.takeAnswer(own, level.from, level.to)
  }
}

/** One that becomes of another kind or size, or answers elsewhere, is another. */
export function keyOf({ id, settings, into }: SpacePlan): string {
  return `${id} ${settings.kind} ${'sizeFraction' in settings ? settings.sizeFraction : ''} ${into}`
}
