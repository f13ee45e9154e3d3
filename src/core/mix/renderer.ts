/** The one renderer: turns a plan into sound, block by block, in the worklet and in the deliver worker alike. */
import { BLOCK_FRAMES } from '../audio/frames'
import { Ceiling, CEILING_LATENCY_FRAMES } from '../effects/ceiling'
import { Chain, latencyFramesOf, type Step } from '../effects/chain'
import { Glide } from '../effects/glide'
import { BeatDip } from './beat-dip'
import { addPair, Bus, clear, makePair, peakOfPair } from './bus'
import type { SampleSource } from './chunk-window'
import { colourFramesOf } from './coloured'
import { NO_LANE } from './lane'
import { packPlan, type PackedChannel, type PackedPlan } from './packed-plan'
import type { BusId, BusPlan, Goal, MixPlan } from './plan'
import { RunningLoudness } from '../loudness/running'
import { SmallSpeaker } from './small-speaker'
import { keyOf, SpaceUnit } from './space-unit'
import type { BlockPlace, Lead } from './span-reader'
import { Strip } from './strip'

/** Channels, buses and the output of the largest song. */
export const MOST_METERS = 96

/** What a mix is judged by while it plays. */
export interface MixLoudness {
  voices: RunningLoudness
  beat: RunningLoudness
  output: RunningLoudness
}

/**
 * Renders stereo blocks of 128 frames. `render(frame)` must be called with frames that follow each other; `seek` starts elsewhere.
 * Equal plans from an equal start give equal samples. The ceiling's look-ahead is taken off: the block for song frame f is what sounds at f.
 */
export class MixRenderer {
  /** Linear peaks of the last block, in the order of the plan's meters. */
  readonly peaks = new Float32Array(MOST_METERS)
  /** Blocks in which some sound was not at hand and silence stood in for it. */
  missedBlocks = 0
  private strips: Strip[]
  /** Of channels that are no longer in the plan, until they have faded out. */
  private leaving: Strip[] = []
  /** Those that were taken out of the plan stay, and do nothing. None goes into one before it. */
  private buses: Bus[] = []
  private readonly busesById = new Map<BusId, Bus>()
  /** Those of the plan, in its order. */
  private metered: Bus[] = []
  /** Those that were taken out of the plan fade out at the end. */
  private spaces: SpaceUnit[]
  /** How many of them are in the plan. */
  private spaceCount: number
  /** What voices and beat go through together. */
  private readonly whole: Chain
  /** So much later it comes out of that. */
  private wholeFrames: number
  private readonly ceiling: Ceiling
  private readonly dip: BeatDip
  private readonly speaker: SmallSpeaker
  /** Only where someone looks at them. */
  loudness: MixLoudness | null = null
  private readonly width: Glide
  private readonly output = makePair()
  /** The channels that come out, where only a part of the voices is asked for. */
  private readonly part: ReadonlySet<string> | null
  private readonly own = makePair()
  /** The spaces whose answer is heard; null: all. */
  private readonly answering: ReadonlySet<SpaceUnit> | null
  private readonly place: BlockPlace = { frame: 0, split: 0, wrapFrame: 0, framesToTurn: 0 }

  constructor(
    given: MixPlan | PackedPlan,
    private readonly source: SampleSource,
  ) {
    const plan = packed(given)
    this.part = plan.stem ? new Set(plan.stem) : null
    // From the last to the first: each must know what it goes into.
    for (const bus of [...plan.buses].reverse()) this.addBus(bus)
    this.orderBuses(plan)
    this.spaces = plan.spaces.map(space => new SpaceUnit(space))
    this.spaceCount = this.spaces.length
    this.numberSpaces()
    this.setFeeds(plan, true)
    this.answering = plan.answering ? new Set(plan.answering.map(i => this.spaces[i])) : null
    this.whole = new Chain(stepsOfWhole(plan))
    this.wholeFrames = latencyFramesOf(stepsOfWhole(plan))
    this.ceiling = new Ceiling(plan.output.ceiling)
    this.dip = new BeatDip(plan.room)
    this.speaker = new SmallSpeaker(plan.output.isSmall)
    this.width = new Glide(plan.output.width)
    this.strips = plan.channels.map(channel => new Strip(channel, leadOf(channel, plan, this.wholeFrames)))
    for (const [i, strip] of this.strips.entries()) strip.setSends(plan.channels[i].sends, [])
  }

  private addBus({ id, into, ...settings }: BusPlan): Bus {
    const bus = new Bus(settings, into === 'output' ? null : this.busesById.get(into)!, this.part !== null)
    this.busesById.set(id, bus)
    return bus
  }

  private orderBuses(plan: PackedPlan): void {
    this.metered = plan.buses.map(bus => this.busesById.get(bus.id)!)
    const gone = [...this.busesById.values()].filter(bus => !this.metered.includes(bus))
    this.buses = [...gone, ...this.metered]
  }

  /** From now on loudness is told as well. */
  listen(): void {
    this.loudness ??= { voices: new RunningLoudness(), beat: new RunningLoudness(), output: new RunningLoudness() }
  }

  get compressorReductionDecibels(): number {
    return this.buses.at(-1)!.chain.reductionDecibels
  }

  get ceilingReductionDecibels(): number {
    return this.ceiling.reductionDecibels
  }

  /** Takes over a changed plan gliding, so that nothing clicks. Allocates; call it between blocks. */
  setPlan(given: MixPlan | PackedPlan): void {
    const plan = packed(given)
    this.setBuses(plan)
    const formerOrder = this.setSpaces(plan)
    const former = new Map(this.strips.map(strip => [strip.id, strip]))
    this.whole.set(stepsOfWhole(plan))
    this.wholeFrames = latencyFramesOf(stepsOfWhole(plan))
    this.strips = plan.channels.map(channel => {
      const strip = former.get(channel.id)
      const lead = leadOf(channel, plan, this.wholeFrames)
      // One that goes another way comes anew, with what it plays.
      if (!strip || strip.into !== channel.into) return new Strip({ ...channel, spans: channel.spans ?? strip?.spans ?? null }, lead, true)
      strip.set(channel, lead)
      return strip
    })
    const order = this.spaces.map((_, i) => formerOrder[i] ?? -1)
    const none = { gain: 0, ride: NO_LANE }
    const gone = this.spaces.slice(plan.spaces.length).map(() => none)
    for (const [i, strip] of this.strips.entries()) {
      const { sends } = plan.channels[i]
      strip.setSends(sends.length > 0 ? [...sends, ...gone] : sends, order)
    }
    for (const strip of former.values()) {
      if (this.strips.includes(strip)) continue
      strip.leave()
      strip.setSends(
        this.spaces.map(() => none),
        order,
      )
      this.leaving.push(strip)
    }
    this.ceiling.set(plan.output.ceiling)
    this.dip.set(plan.room)
    this.speaker.set(plan.output.isSmall)
    this.width.set(plan.output.width)
  }

  /** Takes over other levels gliding, of a plan that is otherwise the last one; see `levelsOf`. Without allocation. */
  setLevels(levels: Float64Array): void {
    let at = 0
    for (let i = 0; i < this.strips.length; i++) at = this.strips[i].setLevels(levels, at, this.spaceCount)
    for (let i = 0; i < this.metered.length; i++) {
      this.metered[i].setLevels(levels[at], levels[at + 1])
      at += 2
    }
    for (let i = 0; i < this.spaceCount; i++) this.spaces[i].setGain(levels[at++])
    this.ceiling.set(levels[at++])
    this.width.set(levels[at])
  }

  private setBuses(plan: PackedPlan): void {
    for (const wanted of [...plan.buses].reverse()) {
      // A bus that comes begins by doing nothing.
      const bus = this.busesById.get(wanted.id) ?? this.addBus({ ...wanted, steps: [], gain: 1, dry: 1 })
      bus.set(wanted)
    }
    this.orderBuses(plan)
    for (const bus of this.buses) if (!this.metered.includes(bus)) bus.set({ steps: [], gain: 1, dry: 1 })
  }

  /** @returns for each space, where it was in the order before; -1 for a new one. */
  private setSpaces(plan: PackedPlan): number[] {
    const former = this.spaces
    const named = plan.spaces.map(space => {
      const key = keyOf(space)
      const unit = former.find(entry => entry.key === key)
      if (!unit) return new SpaceUnit(space, true)
      unit.set(space)
      return unit
    })
    const leaving = former.filter(unit => !named.includes(unit) && !unit.isGone)
    for (const unit of leaving) unit.leave()
    this.spaces = [...named, ...leaving]
    this.spaceCount = named.length
    this.numberSpaces()
    this.setFeeds(plan)
    return this.spaces.map(unit => former.indexOf(unit))
  }

  private numberSpaces(): void {
    this.spaces.forEach((unit, i) => unit.number(i))
  }

  private setFeeds({ spaces }: PackedPlan, isNew = false): void {
    spaces.forEach(({ feeds }, i) => this.spaces[i].feedInto(feeds && this.spaces[feeds.at], feeds?.gain ?? 0, isNew))
  }

  /**
   * Forgets all that still rings and makes ready to render from `frame`.
   * @param options `goingOn`: something was just heard. What begins in mid-sound is then faded in, before anything that rings can take
   *   it for a click, and the compressor still knows how loud the voice is. Otherwise equal plans give equal samples from the first on.
   */
  seek(frame: number, { goingOn = false }: { goingOn?: boolean } = {}): void {
    for (const bus of this.buses) bus.reset({ goingOn })
    for (const space of this.spaces) space.reset()
    this.whole.reset({ goingOn })
    this.ceiling.reset()
    this.dip.reset()
    this.speaker.settle()
    if (this.loudness) for (const meter of [this.loudness.voices, this.loudness.beat, this.loudness.output]) meter.reset()
    this.width.settle()
    this.leaving = []
    for (const strip of this.strips) strip.settle(goingOn)
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
    outLeft.set(this.output[0])
    outRight.set(this.output[1])
  }

  private get mostLeadFrames(): number {
    return this.strips.reduce((most, strip) => Math.max(most, strip.leadFrames), 0)
  }

  private renderAhead(frame: number, split: number, wrapFrame: number, framesToTurn = Infinity): void {
    const { place, strips, buses, output } = this
    place.frame = frame
    place.split = split
    place.wrapFrame = wrapFrame
    place.framesToTurn = framesToTurn
    clear(output)
    for (const bus of buses) bus.begin()
    const endFrame = split < BLOCK_FRAMES ? wrapFrame + BLOCK_FRAMES - split : frame + BLOCK_FRAMES
    // What they are sent is as early as all that comes out.
    for (const space of this.spaces) space.begin(frame + this.wholeFrames, endFrame + this.wholeFrames)
    let complete = true
    for (const strip of strips) if (strip.into !== 'output' && !this.addVoice(strip, strip.into)) complete = false
    for (const strip of this.leaving) if (strip.into !== 'output' && !this.addVoice(strip, strip.into)) complete = false
    if (this.leaving.length > 0) this.leaving = this.leaving.filter(strip => !strip.isSilent)
    for (const bus of buses) this.processBus(bus)
    if (!this.addBeat()) complete = false
    if (!this.whole.isEmpty) this.whole.process(output[0], output[1])
    this.narrow(output[0], output[1])
    this.ceiling.process(output[0], output[1])
    this.loudness?.output.push(output[0], output[1])
    this.speaker.process(output[0], output[1])
    if (!complete) this.missedBlocks++
    this.readPeaks()
  }

  private addVoice(strip: Strip, into: Exclude<Goal, 'output'>): boolean {
    const { part, spaces, source, place, own } = this
    const named = this.busesById.get(into)!
    const bus = named.isIdle && named.into ? named.into : named
    const isApart = part?.has(strip.id) ?? false
    if (isApart) clear(own)
    const isComplete = strip.addInto(isApart ? own : bus.all, spaces, !part || isApart, source, place)
    if (strip.hasAdded) bus.feed()
    if (!isApart || !bus.part) return isComplete
    addPair(bus.all, own)
    addPair(bus.part, own)
    return isComplete
  }

  /** What does not go through the voices' buses; where it gives way to them, by itself first. */
  private addBeat(): boolean {
    const { dip, output, strips, source, place } = this
    const { loudness } = this
    const into = dip.isIdle && !loudness ? output : dip.beat
    if (into !== output) clear(into)
    let isComplete = true
    for (const strip of strips) if (strip.into === 'output' && !strip.addInto(into, null, false, source, place)) isComplete = false
    if (into === output) return isComplete
    if (!dip.isIdle) dip.soften()
    loudness?.beat.push(into[0], into[1])
    addPair(output, into)
    return isComplete
  }

  private processBus(bus: Bus): void {
    const { into } = bus
    if (into && (bus.isIdle || bus.isResting)) {
      bus.peak = 0
      return
    }
    bus.runChain()
    if (!into && !this.dip.isIdle) this.dip.hear(peakOfPair(bus.all))
    // The whole has done its part: it was what compressors heard.
    if (!into && bus.part) for (const side of [0, 1] as const) bus.all[side].set(bus.part[side])
    for (const space of this.spaces) if (this.busesById.get(space.into) === bus) space.answerInto(this.answering?.has(space) === false ? this.own : bus.all)
    bus.applyGain()
    if (!into) this.loudness?.voices.push(bus.all[0], bus.all[1])
    if (into) bus.addInto(into)
    else addPair(this.output, bus.all)
  }

  /** Both sides towards their middle; as mixed, nothing is touched. */
  private narrow(left: Float32Array, right: Float32Array): void {
    const { width } = this
    width.advance()
    if (width.from === 1 && width.to === 1) return
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const middle = 0.5 * (left[i] + right[i])
      const side = 0.5 * (left[i] - right[i]) * width.at(i)
      left[i] = middle + side
      right[i] = middle - side
    }
  }

  private readPeaks(): void {
    const { peaks, strips, metered } = this
    let at = 0
    for (let i = 0; i < strips.length; i++) peaks[at++] = strips[i].peak
    for (let i = 0; i < metered.length; i++) peaks[at++] = metered[i].peak
    peaks[at] = peakOfPair(this.output)
  }
}

function packed(plan: MixPlan | PackedPlan): PackedPlan {
  return 'isPacked' in plan ? plan : packPlan(plan)
}

/** A part of the mix is as it is before them. */
function stepsOfWhole({ output, stem, answering }: PackedPlan): readonly Step[] {
  return stem || answering ? [] : output.steps
}

/** @param wholeFrames What the whole takes. */
function leadOf(channel: PackedChannel, plan: PackedPlan, wholeFrames: number): Lead {
  let afterFrames = 0
  for (let id: Goal = channel.into; id !== 'output';) {
    const bus: BusPlan = plan.buses.find(entry => entry.id === id)!
    afterFrames += latencyFramesOf(bus.steps)
    id = bus.into
  }
  const colourFrames = colourFramesOf(channel.colours)
  return { frames: latencyFramesOf(channel.steps) + colourFrames + afterFrames + wholeFrames, afterFrames, colourFrames }
}
