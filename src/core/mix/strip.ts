/** One channel of the mix: what sounds when, how loud, where from left to right. */
import { BLOCK_FRAMES } from '../audio/frames'
import { Chain } from '../effects/chain'
import { Glide } from '../effects/glide'
import { makePair, peakOfPair, type Pair } from './bus'
import type { SampleSource } from './chunk-window'
import { Coloured } from './coloured'
import { HeldBack, type Holding } from './held-back'
import type { PackedChannel } from './packed-plan'
import type { Goal, SendPlan } from './plan'
import { valueAt, type Lane } from './lane'
import { Ride } from './ride'
import { Sends } from './sends'
import type { SpaceUnit } from './space-unit'
import { TurnFade } from './turn-fade'
import { SpanReader, type BlockPlace, type Lead } from './span-reader'
import type { PackedSpans } from './spans'

interface Send {
  gain: Glide
  ride: Ride
}

/** Four full recipes of what comes latest stay below this. */
export const MOST_LEAD_FRAMES = 8_192

/** Reads a channel, fades it in and out, treats and places it, and sends it into spaces. */
export class Strip {
  readonly id: string
  readonly into: Goal
  private readonly width: 1 | 2
  private isPanRidden: boolean
  peak = 0
  private readonly reader: SpanReader
  /** Whether it added anything in the current block. */
  hasAdded = false
  private readonly gainLeft: Glide
  private readonly gainRight: Glide
  private readonly ride: Ride
  /** What the place does to each side, where it is ridden. */
  private readonly sides: readonly [left: Ride, right: Ride]
  /** Both sides of the current block after level, ride and place. */
  private readonly placed = makePair()
  private readonly chain: Chain
  private readonly coloured = new Coloured()
  private readonly turnFade = new TurnFade()
  private readonly sent = Sends.get()
  /** By the renderer's order of spaces. */
  private sends: Send[] = []
  /** Only where what is sent is held back. */
  private held: { line: HeldBack; out: Pair } | null = null
  private readonly holding: Holding = { frames: 0, formerFrames: 0, swapped: 1 }

  constructor(channel: PackedChannel, lead: Lead, fadeIn = false) {
    const { width } = channel
    this.id = channel.id
    this.into = channel.into
    this.width = width
    this.isPanRidden = channel.panRide.length > 0
    this.reader = new SpanReader(channel.spans, lead, width)
    this.gainLeft = new Glide(fadeIn ? 0 : channel.gain * placeGain(channel, LEFT))
    this.gainRight = new Glide(fadeIn ? 0 : channel.gain * placeGain(channel, RIGHT))
    this.ride = new Ride(channel.ride)
    const placedAt = (side: Side) => (lane: Lane, frame: number) => (lane.length === 0 ? 1 : panGain(valueAt(lane, frame), width, side))
    this.sides = [new Ride(channel.panRide, placedAt(LEFT)), new Ride(channel.panRide, placedAt(RIGHT))]
    this.chain = new Chain(channel.steps)
    this.coloured.set(channel.colours, !fadeIn)
    this.holdBack(lead)
    if (fadeIn) this.set(channel, lead)
  }

  set(channel: PackedChannel, lead: Lead): void {
    this.gainLeft.set(channel.gain * placeGain(channel, LEFT))
    this.gainRight.set(channel.gain * placeGain(channel, RIGHT))
    this.ride.set(channel.ride)
    for (const side of this.sides) side.set(channel.panRide)
    this.isPanRidden = channel.panRide.length > 0
    this.chain.set(channel.steps)
    this.coloured.set(channel.colours)
    this.holdBack(lead)
    this.reader.set(channel.spans, lead)
  }

  /** As `set`, of levels and place alone, and without allocation. @param at Where in the levels its own begin. @returns where the next begin. */
  setLevels(levels: Float64Array, at: number, spaceCount: number): number {
    const gain = levels[at]
    const pan = levels[at + 1]
    this.gainLeft.set(gain * (this.isPanRidden ? 1 : panGain(pan, this.width, LEFT)))
    this.gainRight.set(gain * (this.isPanRidden ? 1 : panGain(pan, this.width, RIGHT)))
    const sends = Math.min(spaceCount, this.sends.length)
    for (let s = 0; s < sends; s++) this.sends[s].gain.set(levels[at + 2 + s])
    return at + 2 + sends
  }

  /**
   * What is sent into each of the renderer's spaces, in their order; to be called after it was made or set.
   * @param formerOrder For each, its place in the order before; -1 if it is new.
   */
  setSends(plans: readonly SendPlan[], formerOrder: readonly number[]): void {
    const former = this.sends
    if (plans.length === former.length && plans.every((_, i) => formerOrder[i] === i)) {
      for (let i = 0; i < plans.length; i++) {
        former[i].gain.set(plans[i].gain)
        former[i].ride.set(plans[i].ride)
      }
      return
    }
    this.sends = plans.map(({ gain, ride }, i) => {
      const send = former[formerOrder[i]] ?? { gain: new Glide(former.length > 0 ? 0 : gain), ride: new Ride(ride) }
      send.gain.set(gain)
      send.ride.set(ride)
      return send
    })
  }

  /** Fades out, to be left out of the plan after that. */
  leave(): void {
    this.gainLeft.set(0)
    this.gainRight.set(0)
  }

  /** Whether nothing of it can be heard any more. */
  get isSilent(): boolean {
    const { gainLeft, gainRight } = this
    return gainLeft.from === 0 && gainLeft.to === 0 && gainRight.from === 0 && gainRight.to === 0
  }

  /** What it plays, once a swap that is going on is done. */
  get spans(): PackedSpans {
    return this.reader.spans
  }

  /** So much earlier than it sounds it is read. */
  get leadFrames(): number {
    return this.reader.lead.frames
  }

  private holdBack({ afterFrames }: Lead): void {
    if (afterFrames === 0 || this.held) return
    this.held = { line: new HeldBack(MOST_LEAD_FRAMES), out: makePair() }
  }

  /** @param goingOn Something was just heard and goes on elsewhere. */
  settle(goingOn: boolean): void {
    this.reader.settle()
    for (const { gain, ride } of this.sends) {
      gain.settle()
      ride.settle()
    }
    for (const part of [this.gainLeft, this.gainRight, this.ride, ...this.sides]) part.settle()
    this.chain.reset({ goingOn })
    this.coloured.reset(goingOn)
    this.held?.line.reset()
    this.turnFade.begin(goingOn)
  }

  /**
   * @param spaces What it sends into; null: nothing.
   * @param isSent Otherwise the spaces only hear that it sounds.
   * @returns false if some sound was not at hand.
   */
  addInto(into: Pair, spaces: readonly SpaceUnit[] | null, isSent: boolean, source: SampleSource, place: BlockPlace): boolean {
    const { reader } = this
    this.hasAdded = false
    reader.beginBlock()
    this.addBlock(into, spaces, isSent, source, place)
    reader.endBlock()
    return reader.isComplete
  }

  private addBlock([left, right]: Pair, spaces: readonly SpaceUnit[] | null, isSent: boolean, source: SampleSource, place: BlockPlace): void {
    const { reader, placed } = this
    const { sums } = reader
    const at = reader.placeAhead(place)
    this.advance(at)
    const fade = this.turnFade.next(at.split, at.framesToTurn)
    this.peak = 0
    if (this.isSilent) return
    const sounds = reader.read(source, place)
    if (!sounds && this.isQuiet) return
    if (fade) for (const sum of sums) for (let i = 0; i < BLOCK_FRAMES; i++) sum[i] *= fade[i]
    const inLeft = sums[0]
    const inRight = sums[sums.length - 1]
    if (!this.chain.isEmpty) this.chain.process(inLeft, inRight, !sounds)
    const { coloured } = this
    const isColoured = !coloured.isEmpty && coloured.process(inLeft, inRight, !sounds, this.hold(reader.lead.colourFrames, reader.formerLead.colourFrames))
    this.hasAdded = true
    this.placeSide(placed[0], isColoured ? coloured.out[0] : inLeft, this.gainLeft, this.sides[0])
    this.placeSide(placed[1], isColoured ? coloured.out[1] : inRight, this.gainRight, this.sides[1])
    this.peak = Math.max(addInto(left, placed[0]), addInto(right, placed[1]))
    if (spaces) this.send(spaces, isSent)
  }

  /** Nothing of it rings, is held back or is coloured any more. */
  private get isQuiet(): boolean {
    if (!this.coloured.isResting) return false
    return this.chain.isEmpty ? !this.held : this.chain.isResting
  }

  private hold(frames: number, formerFrames: number): Holding {
    const { holding } = this
    holding.frames = frames
    holding.formerFrames = formerFrames
    holding.swapped = this.reader.swapped
    return holding
  }

  /** All three levels at once: each is a straight line over the block, and so short a part of their product is one as well. */
  private placeSide(placed: Float32Array, input: Float32Array, gain: Glide, side: Ride): void {
    const { ride } = this
    const level = gain.from * ride.from * side.from
    const step = (gain.to * ride.to * side.to - level) / BLOCK_FRAMES
    if (step === 0) for (let i = 0; i < BLOCK_FRAMES; i++) placed[i] = input[i] * level
    else for (let i = 0; i < BLOCK_FRAMES; i++) placed[i] = input[i] * (level + step * i)
  }

  private advance({ frame, split, wrapFrame }: BlockPlace): void {
    const endFrame = split < BLOCK_FRAMES ? wrapFrame + BLOCK_FRAMES - split : frame + BLOCK_FRAMES
    this.gainLeft.advance()
    this.gainRight.advance()
    this.ride.advance(frame, endFrame)
    this.coloured.advance(frame, endFrame)
    this.sides[0].advance(frame, endFrame)
    this.sides[1].advance(frame, endFrame)
    for (let s = 0; s < this.sends.length; s++) {
      this.sends[s].gain.advance()
      this.sends[s].ride.advance(frame, endFrame)
    }
  }

  /** Into the spaces, after level and place. */
  private send(spaces: readonly SpaceUnit[], isSent: boolean): void {
    const { sends, held } = this
    if (held) this.holdBlock(held)
    const block = held ? held.out : this.placed
    const peak = held ? peakOfPair(block) : this.peak
    let isThere = false
    for (let s = 0; s < sends.length; s++) {
      const { gain, ride } = sends[s]
      if (gain.from === 0 && gain.to === 0) continue
      spaces[s].hear(peak)
      if (!isSent || (ride.from === 0 && ride.to === 0)) continue
      if (!isThere) for (let side = 0; side < 2; side++) this.sent.block[side].set(block[side])
      isThere = true
      spaces[s].take(gain.from * ride.from, gain.to * ride.to)
    }
  }

  /** What is sent, held back by what the voices still go through. */
  private holdBlock({ line, out }: { line: HeldBack; out: Pair }): void {
    const { lead, formerLead } = this.reader
    for (let side = 0; side < 2; side++) out[side].set(this.placed[side])
    line.process(out[0], out[1], this.hold(lead.afterFrames, formerLead.afterFrames))
  }
}

/** @returns the largest of what was added. */
function addInto(into: Float32Array, from: Float32Array): number {
  let peak = 0
  for (let i = 0; i < BLOCK_FRAMES; i++) {
    const sample = from[i]
    into[i] += sample
    const level = sample < 0 ? -sample : sample
    if (level > peak) peak = level
  }
  return peak
}

type Side = 0 | 1
const LEFT = 0
const RIGHT = 1

/** Where the place is ridden, the ride does it all. */
function placeGain({ pan, panRide, width }: PackedChannel, side: Side): number {
  return panRide.length > 0 ? 1 : panGain(pan, width, side)
}

/** One voice is placed at constant power (-3 dB each in the middle); a stereo sound is balanced (0 dB in the middle). */
function panGain(pan: number, width: 1 | 2, side: Side): number {
  if (width === 2) return Math.min(1, side === LEFT ? 1 - pan : 1 + pan)
  const angle = ((pan + 1) * Math.PI) / 4
  return side === LEFT ? Math.cos(angle) : Math.sin(angle)
}
