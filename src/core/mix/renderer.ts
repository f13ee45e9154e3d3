/** The one renderer: turns a plan into sound, block by block, in the worklet and in the deliver worker alike. */
import { BLOCK_FRAMES } from '../audio/frames'
import { Ceiling, CEILING_LATENCY_FRAMES } from '../effects/ceiling'
import { latencyFramesOf } from '../effects/chain'
import { Glide } from '../effects/glide'
import type { Role } from '../song/schema'
import { addPair, Bus, clear, makePair } from './bus'
import type { SampleSource } from './chunk-window'
import { packPlan, type PackedChannel, type PackedPlan } from './packed-plan'
import type { MixPlan } from './plan'
import { keyOf, SpaceUnit } from './space-unit'
import { Strip, type BlockPlace, type Lead } from './strip'

/** Levels of the last block, linear peaks. */
export interface BlockPeaks {
  /** By the plan's order of layers. */
  layers: Float32Array
  beat: number
  vocal: number
  output: number
}

/**
 * Renders stereo blocks of 128 frames. `render(frame)` must be called with frames that follow each other; `seek` starts elsewhere.
 * Equal plans from an equal start give equal samples. The ceiling's look-ahead is taken off: the block for song frame f is what sounds at f.
 */
export class MixRenderer {
  readonly peaks: BlockPeaks
  /** Blocks in which some sound was not at hand and silence stood in for it. */
  missedBlocks = 0
  private strips: Strip[]
  /** Of layers that are no longer in the plan, until they have faded out. */
  private leaving: Strip[] = []
  private readonly beatStrip: Strip
  private readonly buses = new Map<Role, Bus>()
  /** The same, in the order in which they came. */
  private roleBuses: Bus[] = []
  private readonly vocals: Bus
  /** Those that were taken out of the plan fade out at the end. */
  private spaces: SpaceUnit[]
  private readonly ceiling: Ceiling
  private readonly dry: Glide
  /** The layers that come out, where only a part of the voices is asked for. */
  private readonly part: ReadonlySet<string> | null
  private readonly own = makePair()
  private readonly place: BlockPlace = { frame: 0, split: 0, wrapFrame: 0, framesToTurn: 0 }

  constructor(
    given: MixPlan | PackedPlan,
    private readonly source: SampleSource,
  ) {
    const plan = packed(given)
    this.part = plan.stem ? new Set(plan.stem) : null
    this.vocals = this.makeBus(plan.vocalSteps, plan.vocalGain)
    for (const bus of plan.buses) this.buses.set(bus.role, this.makeBus(bus.steps, bus.gain))
    this.roleBuses = [...this.buses.values()]
    this.spaces = plan.spaces.map(space => new SpaceUnit(space))
    this.ceiling = new Ceiling(plan.ceiling)
    this.dry = new Glide(plan.dry)
    this.strips = plan.layers.map(channel => new Strip(channel, 1, leadOf(channel, plan)))
    for (const [i, strip] of this.strips.entries()) strip.setSends(plan.layers[i].sends, [])
    this.beatStrip = new Strip(plan.beat, 2, NO_LEAD)
    this.peaks = { layers: new Float32Array(64), beat: 0, vocal: 0, output: 0 }
  }

  private makeBus(steps: MixPlan['vocalSteps'], gain: number): Bus {
    return new Bus(steps, gain, { hasPart: this.part !== null })
  }

  get compressorReductionDecibels(): number {
    return this.vocals.chain.reductionDecibels
  }

  get ceilingReductionDecibels(): number {
    return this.ceiling.reductionDecibels
  }

  /** Takes over a changed plan gliding, so that nothing clicks. Allocates; call it between blocks. */
  setPlan(given: MixPlan | PackedPlan): void {
    const plan = packed(given)
    this.vocals.set(plan.vocalSteps, plan.vocalGain)
    this.setBuses(plan)
    const formerOrder = this.setSpaces(plan)
    const former = new Map(this.strips.map(strip => [strip.id, strip]))
    this.strips = plan.layers.map(channel => {
      const strip = former.get(channel.id)
      const lead = leadOf(channel, plan)
      // In another role it goes another way, with what it plays.
      if (!strip || strip.role !== channel.role) return new Strip({ ...channel, spans: channel.spans ?? strip?.spans ?? null }, 1, lead, true)
      strip.set(channel, lead)
      return strip
    })
    const order = this.spaces.map((_, i) => formerOrder[i] ?? -1)
    const gone = this.spaces.slice(plan.spaces.length).map(() => 0)
    for (const [i, strip] of this.strips.entries()) strip.setSends([...plan.layers[i].sends, ...gone], order)
    for (const strip of former.values()) {
      if (this.strips.includes(strip)) continue
      strip.leave()
      strip.setSends(
        this.spaces.map(() => 0),
        order,
      )
      this.leaving.push(strip)
    }
    this.beatStrip.set(plan.beat, NO_LEAD)
    this.dry.set(plan.dry)
    this.ceiling.set(plan.ceiling)
  }

  private setBuses(plan: PackedPlan): void {
    for (const { role, steps, gain } of plan.buses) {
      const bus = this.buses.get(role)
      if (bus) bus.set(steps, gain)
      else {
        // A bus that comes begins by doing nothing.
        const made = this.makeBus([], 1)
        made.set(steps, gain)
        this.buses.set(role, made)
      }
    }
    for (const [role, bus] of this.buses) if (!plan.buses.some(entry => entry.role === role)) bus.set([], 1)
    this.roleBuses = [...this.buses.values()]
  }

  /** @returns for each space, where it was in the order before; -1 for a new one. */
  private setSpaces(plan: PackedPlan): number[] {
    const former = this.spaces
    const named = plan.spaces.map(space => {
      const unit = former.find(entry => entry.key === keyOf(space))
      if (!unit) return new SpaceUnit(space, true)
      unit.set(space)
      return unit
    })
    const leaving = former.filter(unit => !named.includes(unit) && !unit.isGone)
    for (const unit of leaving) unit.leave()
    this.spaces = [...named, ...leaving]
    return this.spaces.map(unit => former.indexOf(unit))
  }

  /**
   * Forgets all that still rings and makes ready to render from `frame`.
   * @param options `goingOn`: something was just heard. What begins in mid-sound is then faded in, before anything that rings can take
   *   it for a click, and the compressor still knows how loud the voice is. Otherwise equal plans give equal samples from the first on.
   */
  seek(frame: number, { goingOn = false }: { goingOn?: boolean } = {}): void {
    for (const bus of [this.vocals, ...this.roleBuses]) bus.reset({ goingOn })
    for (const space of this.spaces) space.reset()
    this.ceiling.reset()
    this.leaving = []
    for (const strip of [...this.strips, this.beatStrip]) strip.settle(goingOn)
    this.dry.settle()
    // What rows of effects hold back, and then the ceiling's look-ahead, is filled; what comes out of them lies before `frame`.
    for (let early = Math.ceil(this.mostLeadFrames / BLOCK_FRAMES); early >= 0; early--) this.renderAhead(frame - early * BLOCK_FRAMES, BLOCK_FRAMES, 0)
  }

  /** Writes the block that sounds at song frame `frame`. */
  render(frame: number, outLeft: Float32Array, outRight: Float32Array): void {
    this.pull(frame + CEILING_LATENCY_FRAMES, BLOCK_FRAMES, 0, outLeft, outRight)
  }

  /**
   * Writes the block before the one that is taken in: for loops, whose end may fall inside a block. Takes in `split` frames of the
   * song from `frame` and the remaining frames from `wrapFrame`; fades out before the turn, of which `framesToTurn` are left, and in after it.
   */
  pull(frame: number, split: number, wrapFrame: number, outLeft: Float32Array, outRight: Float32Array, framesToTurn = Infinity): void {
    this.renderAhead(frame, split, wrapFrame, framesToTurn)
    outLeft.set(this.vocals.all[0])
    outRight.set(this.vocals.all[1])
  }

  private get mostLeadFrames(): number {
    return this.strips.reduce((most, strip) => Math.max(most, strip.leadFrames), 0)
  }

  private renderAhead(frame: number, split: number, wrapFrame: number, framesToTurn = Infinity): void {
    const { vocals, peaks, place, strips } = this
    place.frame = frame
    place.split = split
    place.wrapFrame = wrapFrame
    place.framesToTurn = framesToTurn
    vocals.begin()
    for (const bus of this.roleBuses) bus.begin()
    for (const space of this.spaces) space.begin()
    let complete = true
    for (let i = 0; i < strips.length; i++) {
      if (!this.addStrip(strips[i])) complete = false
      peaks.layers[i] = strips[i].peak
    }
    for (const strip of this.leaving) if (!this.addStrip(strip)) complete = false
    if (this.leaving.length > 0) this.leaving = this.leaving.filter(strip => !strip.isSilent)
    this.processVoices()
    const out = vocals.all
    if (!this.beatStrip.addInto(out, null, this.source, place)) complete = false
    peaks.beat = this.beatStrip.peak
    this.ceiling.process(out[0], out[1])
    peaks.output = peakOfPair(out[0], out[1])
    if (!complete) this.missedBlocks++
  }

  private addStrip(strip: Strip): boolean {
    const { part, spaces, source, place, own } = this
    const roleBus = strip.role === null ? undefined : this.buses.get(strip.role)
    const bus = roleBus && !roleBus.isIdle ? roleBus : this.vocals
    const isApart = part?.has(strip.id) ?? false
    if (isApart) clear(own)
    const isComplete = strip.addInto(isApart ? own : bus.all, part && !isApart ? null : spaces, source, place)
    if (strip.hasAdded) bus.feed()
    if (!isApart || !bus.part) return isComplete
    addPair(bus.all, own)
    addPair(bus.part, own)
    return isComplete
  }

  /** Role buses, the recipe of all voices, the spaces' answers, the level. */
  private processVoices(): void {
    const { vocals, dry } = this
    for (const bus of this.roleBuses) {
      if (bus.isIdle || bus.isResting) continue
      bus.runChain()
      bus.applyGain()
      bus.addInto(vocals)
    }
    vocals.runChain()
    // The whole has done its part: it was what compressors heard.
    if (vocals.part) for (const side of [0, 1] as const) vocals.all[side].set(vocals.part[side])
    dry.advance()
    if (dry.from !== 1 || dry.to !== 1) for (const side of vocals.all) for (let i = 0; i < BLOCK_FRAMES; i++) side[i] *= dry.at(i)
    for (const space of this.spaces) space.answerInto(vocals.all)
    vocals.applyGain()
    this.peaks.vocal = peakOfPair(vocals.all[0], vocals.all[1])
  }
}

const NO_LEAD: Lead = { frames: 0, afterFrames: 0 }

function packed(plan: MixPlan | PackedPlan): PackedPlan {
  return 'isPacked' in plan ? plan : packPlan(plan)
}

function leadOf(channel: PackedChannel, plan: PackedPlan): Lead {
  const bus = plan.buses.find(entry => entry.role === channel.role)
  const afterFrames = latencyFramesOf(bus?.steps ?? []) + latencyFramesOf(plan.vocalSteps)
  return { frames: latencyFramesOf(channel.steps) + afterFrames, afterFrames }
}

function peakOfPair(left: Float32Array, right: Float32Array): number {
  let peak = 0
  for (let i = 0; i < left.length; i++) {
    const level = Math.max(Math.abs(left[i]), Math.abs(right[i]))
    if (level > peak) peak = level
  }
  return peak
}
