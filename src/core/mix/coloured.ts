/** Colours on stretches of a channel: while one lasts, the sound goes through its row of effects instead of by it. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { Chain, latencyFramesOf } from '../effects/chain'
import { addPair, makePair, type Pair } from './bus'
import { HeldBack, type Holding } from './held-back'
import { valueAt, type Lane } from './lane'
import type { ColourPlan } from './plan'
import { Ride } from './ride'

/** Twelve steps, each as late as can be. */
const MOST_COLOUR_FRAMES = 2_048
/** After so much silence nothing of a colour rings. */
const RESTING_BLOCKS = (14 * SAMPLE_RATE_HZ) / BLOCK_FRAMES

/** No share anywhere. */
const NOWHERE: Lane = Float64Array.of(0, 0)

interface Unit {
  id: string
  chain: Chain
  share: Ride
  latencyFrames: number
  /** Quicker colours wait for the slowest. */
  held: HeldBack | null
  wet: Pair
}

export function colourFramesOf(colours: readonly ColourPlan[]): number {
  return colours.reduce((most, { steps }) => Math.max(most, latencyFramesOf(steps)), 0)
}

export class Coloured {
  private units: Unit[] = []
  /** What goes on, where `process` says so. */
  readonly out = makePair()
  private held: HeldBack | null = null
  private silentBlocks = Infinity
  private readonly shares = new Float32Array(BLOCK_FRAMES)
  /** By how much less a colour is held back that is late by itself. */
  private readonly waiting: Holding = { frames: 0, formerFrames: 0, swapped: 1 }

  /** Allocates; call it between blocks. A colour that is gone fades out as it would at its end. */
  set(plans: readonly ColourPlan[], isNew = false): void {
    const leaving = isNew ? [] : this.units.filter(unit => isOpen(unit) && !plans.some(plan => plan.id === unit.id))
    for (const { share } of leaving) share.set(NOWHERE)
    this.units = [...plans.map(plan => this.unitFor(plan, isNew)), ...leaving]
    const frames = colourFramesOf(plans)
    if (frames > 0) this.held ??= new HeldBack(MOST_COLOUR_FRAMES)
    for (const unit of this.units) if (unit.latencyFrames < frames) unit.held ??= new HeldBack(MOST_COLOUR_FRAMES)
  }

  private unitFor({ id, steps, share }: ColourPlan, isNew: boolean): Unit {
    const latencyFrames = latencyFramesOf(steps)
    const known = this.units.find(unit => unit.id === id)
    if (known) {
      known.chain.set(steps)
      known.share.set(share)
      known.latencyFrames = latencyFrames
      return known
    }
    const ride = new Ride(isNew ? share : NOWHERE, valueAt)
    ride.set(share)
    return { id, chain: new Chain(steps), share: ride, latencyFrames, held: null, wet: makePair() }
  }

  advance(frame: number, endFrame: number): void {
    for (const { share } of this.units) share.advance(frame, endFrame)
  }

  /** Nothing of it is heard and nothing is held back. */
  get isEmpty(): boolean {
    return this.units.length === 0 && !this.held
  }

  get isResting(): boolean {
    return this.isEmpty || this.silentBlocks > RESTING_BLOCKS
  }

  reset(goingOn: boolean): void {
    for (const { chain, share, held } of this.units) {
      chain.reset({ goingOn })
      share.settle()
      held?.reset()
    }
    this.held?.reset()
    this.silentBlocks = Infinity
  }

  /**
   * Without allocation.
   * @param isSilent Nothing goes in.
   * @param holding What all of it is late by, and was, as the reader has it.
   * @returns false where nothing is coloured or held back: what came goes on as it is. Otherwise what goes on is in `out`.
   */
  process(left: Float32Array, right: Float32Array, isSilent: boolean, holding: Holding): boolean {
    this.silentBlocks = isSilent ? this.silentBlocks + 1 : 0
    const { units, out, held } = this
    if (!held && !units.some(isAwake)) return false
    out[0].set(left)
    out[1].set(right)
    const isColoured = this.sumShares()
    for (const unit of units) this.colour(unit, left, right, isSilent)
    if (isColoured) this.takeShares()
    held?.process(out[0], out[1], holding)
    for (const unit of units) if (isAwake(unit)) this.add(unit, holding)
    return true
  }

  /** @returns whether any of them is more than nothing. */
  private sumShares(): boolean {
    const { units, shares } = this
    shares.fill(0)
    let isColoured = false
    for (const unit of units) {
      if (!isOpen(unit)) continue
      isColoured = true
      for (let i = 0; i < BLOCK_FRAMES; i++) shares[i] += unit.share.at(i)
    }
    return isColoured
  }

  /** What goes through colours does not go by them as well. */
  private takeShares(): void {
    const { out, shares } = this
    for (let side = 0; side < 2; side++) for (let i = 0; i < BLOCK_FRAMES; i++) out[side][i] *= 1 - Math.min(1, shares[i])
  }

  private colour(unit: Unit, left: Float32Array, right: Float32Array, isSilent: boolean): void {
    const { chain, share, wet } = unit
    const { shares } = this
    if (isOpen(unit)) {
      for (let i = 0; i < BLOCK_FRAMES; i++) {
        // Where colours lie over each other they share the sound.
        const part = share.at(i) / Math.max(1, shares[i])
        wet[0][i] = part * left[i]
        wet[1][i] = part * right[i]
      }
      chain.process(wet[0], wet[1], isSilent)
    } else if (!chain.isResting) {
      for (const side of wet) side.fill(0)
      chain.process(wet[0], wet[1], true)
    }
  }

  private add({ wet, held, latencyFrames }: Unit, { frames, formerFrames, swapped }: Holding): void {
    const { out, waiting } = this
    waiting.frames = Math.max(0, frames - latencyFrames)
    waiting.formerFrames = Math.max(0, formerFrames - latencyFrames)
    waiting.swapped = swapped
    held?.process(wet[0], wet[1], waiting)
    addPair(out, wet)
  }
}

function isOpen({ share }: Unit): boolean {
  return share.from > 0 || share.to > 0
}

/** Something of it is heard, or still rings. */
function isAwake(unit: Unit): boolean {
  return isOpen(unit) || !unit.chain.isResting
}
