/** Colours on stretches of a channel: while one lasts, the sound goes through its row of effects instead of by it. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { Chain, latencyFramesOf } from '../effects/chain'
import { makePair, type Pair } from './bus'
import { HeldBack, type Holding } from './held-back'
import { valueAt, type Lane } from './lane'
import type { ColourPlan } from './plan'
import { Ride } from './ride'

/** Twelve steps, each as late as can be. */
export const MOST_COLOUR_FRAMES = 2_048
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
  private readonly dry = makePair()
  private held: HeldBack | null = null
  private silentBlocks = Infinity
  private readonly shares = new Float32Array(BLOCK_FRAMES)
  private readonly holding: Holding = { frames: 0, formerFrames: 0, swapped: 1 }

  /** Allocates; call it between blocks. A colour that is gone fades out as it would at its end. */
  set(plans: readonly ColourPlan[], isNew = false): void {
    const leaving = isNew ? [] : this.units.filter(({ id, share }) => !plans.some(plan => plan.id === id) && (share.from > 0 || share.to > 0))
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
   * @param isSilent Nothing goes in.
   * @param frames What all of it is late by, and was, as the reader has it.
   * @returns what comes out: the caller's own blocks where nothing is coloured.
   */
  process(left: Float32Array, right: Float32Array, isSilent: boolean, frames: Holding): readonly [Float32Array, Float32Array] {
    this.silentBlocks = isSilent ? this.silentBlocks + 1 : 0
    const { units, dry, held, shares } = this
    if (!held && units.every(unit => !isOpen(unit) && unit.chain.isResting)) return [left, right]
    dry[0].set(left)
    dry[1].set(right)
    this.sumShares()
    const isColoured = units.some(isOpen)
    for (const unit of units) this.colour(unit, left, right, isSilent)
    if (isColoured) for (const side of dry) for (let i = 0; i < BLOCK_FRAMES; i++) side[i] *= 1 - Math.min(1, shares[i])
    held?.process(dry[0], dry[1], frames)
    for (const unit of units) this.add(unit, frames)
    return dry
  }

  private sumShares(): void {
    const { units, shares } = this
    shares.fill(0)
    for (const { share } of units) for (let i = 0; i < BLOCK_FRAMES; i++) shares[i] += share.at(i)
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

  private add({ chain, wet, held, latencyFrames, ...unit }: Unit, { frames, formerFrames, swapped }: Holding): void {
    if (chain.isResting && !isOpen(unit)) return
    const { dry, holding } = this
    holding.frames = Math.max(0, frames - latencyFrames)
    holding.formerFrames = Math.max(0, formerFrames - latencyFrames)
    holding.swapped = swapped
    held?.process(wet[0], wet[1], holding)
    for (let side = 0; side < 2; side++) for (let i = 0; i < BLOCK_FRAMES; i++) dry[side][i] += wet[side][i]
  }
}

function isOpen({ share }: Pick<Unit, 'share'>): boolean {
  return share.from > 0 || share.to > 0
}
