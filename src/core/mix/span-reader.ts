/** What a channel plays, read as early as it has to be; other spans, or another lead, are crossfaded to. */
import { BLOCK_FRAMES } from '../audio/frames'
import { SWAP_BLOCKS } from '../effects/glide'
import type { SampleSource } from './chunk-window'
import { addSpansInto, MISSED, packSpans, SOUNDED, type PackedSpans } from './spans'

/** Where in the song a block begins, and where a loop turns in it. */
export interface BlockPlace {
  frame: number
  /** So many frames lie before the turn; the rest goes on from `wrapFrame`. */
  split: number
  wrapFrame: number
  /** From `frame`; Infinity without a loop. */
  framesToTurn: number
}

/** How early a channel is read, so that it comes together with the others after all that it goes through. */
export interface Lead {
  /** By what it goes through from its spans to the output. */
  frames: number
  /** Of these, what comes after it: by so much what it sends into spaces is held back. */
  afterFrames: number
  /** And what its colours take, whether one sounds or not. */
  colourFrames: number
}

interface Reading {
  spans: PackedSpans
  lead: Lead
}

const NO_SPANS = packSpans([])

export class SpanReader {
  /** What is read, a row a channel; the caller's to change until the next block. */
  readonly sums: readonly Float32Array[]
  /** Whether all sound of the last block was at hand. */
  isComplete = true
  private reading: Reading
  /** What sounded before a swap, while it fades out. */
  private former: Reading | null = null
  private swapBlocks = 0
  /** What comes after the swap that is going on: a swap is never begun from its middle. */
  private next: Reading | null = null
  private readonly olds: readonly Float32Array[]
  private readonly scratch = new Float32Array(BLOCK_FRAMES)
  private readonly ahead: BlockPlace = { frame: 0, split: 0, wrapFrame: 0, framesToTurn: 0 }

  /** @param spans Null: nothing. @param width Channels. */
  constructor(spans: PackedSpans | null, lead: Lead, width: number) {
    this.reading = { spans: spans ?? NO_SPANS, lead }
    this.sums = Array.from({ length: width }, () => new Float32Array(BLOCK_FRAMES))
    this.olds = Array.from({ length: width }, () => new Float32Array(BLOCK_FRAMES))
  }

  /** @param spans Null: as before. */
  set(spans: PackedSpans | null, lead: Lead): void {
    const reading = { spans: spans ?? this.spans, lead }
    if (this.swapBlocks > 0) this.next = reading
    else this.swapTo(reading)
  }

  settle(): void {
    this.swapBlocks = 0
    this.former = null
    this.reading = this.next ?? this.reading
    this.next = null
  }

  /** What is played, once a swap that is going on is done. */
  get spans(): PackedSpans {
    return (this.next ?? this.reading).spans
  }

  get lead(): Lead {
    return this.reading.lead
  }

  /** Of what fades out; of what is there, where nothing does. */
  get formerLead(): Lead {
    return (this.former ?? this.reading).lead
  }

  /** How much of a swap is done where the block begins, 0..1; by the end of the block it is `1 / SWAP_BLOCKS` more. */
  get swapped(): number {
    return (SWAP_BLOCKS - this.swapBlocks) / SWAP_BLOCKS
  }

  /** The block that is read where `place` sounds; good until the next call. */
  placeAhead(place: BlockPlace): BlockPlace {
    return placeAhead(place, this.reading.lead.frames, this.ahead)
  }

  /** Fills `sums`; while a swap goes on, faded from what was before. @returns whether anything sounds. */
  read(source: SampleSource, place: BlockPlace): boolean {
    const { sums, olds, former, swapped } = this
    let sounds = this.sum(sums, this.reading, source, place)
    if (!former || this.swapBlocks === 0) return sounds
    sounds = this.sum(olds, former, source, place) || sounds
    for (let c = 0; c < sums.length; c++) {
      for (let i = 0; i < BLOCK_FRAMES; i++) {
        const amount = swapped + i / (BLOCK_FRAMES * SWAP_BLOCKS)
        sums[c][i] = olds[c][i] + amount * (sums[c][i] - olds[c][i])
      }
    }
    return sounds
  }

  beginBlock(): void {
    this.isComplete = true
  }

  /** A swap that is going on goes on, whether the block was read or not. */
  endBlock(): void {
    if (this.swapBlocks === 0 || --this.swapBlocks > 0) return
    this.former = null
    const { next } = this
    this.next = null
    if (next) this.swapTo(next)
  }

  private swapTo(reading: Reading): void {
    const { lead, spans } = this.reading
    if (spans !== reading.spans || lead.frames !== reading.lead.frames || lead.afterFrames !== reading.lead.afterFrames) {
      this.former = this.reading
      this.swapBlocks = SWAP_BLOCKS
    }
    this.reading = reading
  }

  private sum(sums: readonly Float32Array[], { spans, lead }: Reading, source: SampleSource, place: BlockPlace): boolean {
    const { frame, split, wrapFrame } = placeAhead(place, lead.frames, this.ahead)
    for (const sum of sums) sum.fill(0)
    let outcome = addSpansInto(sums, this.scratch, spans, source, frame, 0, split)
    if (split < BLOCK_FRAMES) outcome |= addSpansInto(sums, this.scratch, spans, source, wrapFrame, split, BLOCK_FRAMES)
    if (outcome & MISSED) this.isComplete = false
    return (outcome & SOUNDED) !== 0
  }
}

/** The block that lies so many frames later, the loop followed. @param into Overwritten. */
function placeAhead(place: BlockPlace, frames: number, into: BlockPlace): BlockPlace {
  if (frames === 0) return place
  const left = place.framesToTurn - frames
  into.wrapFrame = place.wrapFrame
  into.frame = left > 0 ? place.frame + frames : place.wrapFrame - left
  into.split = left > 0 ? Math.min(BLOCK_FRAMES, left) : BLOCK_FRAMES
  into.framesToTurn = left > 0 ? left : Infinity
  return into
}
