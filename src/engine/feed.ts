/**
 * What the mix worklet will need next, read from storage and sent ahead of the commands that need it. Every command goes through,
 * whatever becomes of the reading.
 */
import { SAMPLE_RATE_HZ } from '../core/audio/frames'
import { chunksNeeded, CHUNK_FRAMES } from '../core/mix/chunk-window'
import { withLevels } from '../core/mix/levels'
import { soundingSpans } from '../core/mix/missing-sound'
import { buffersOf, packPlan, withKnown } from '../core/mix/packed-plan'
import type { MixPlan } from '../core/mix/plan'
import type { AssetStore } from '../core/mix/render-offline'
import type { AssetId } from '../core/song/schema'
import type { FromFeeder, ToMix } from './messages'
import { TRANSPORT } from './shared-state'
import { within } from './waiting'

/** Held ahead of the playhead and behind it, while playing and before a command goes through. */
const AHEAD_FRAMES = 3 * SAMPLE_RATE_HZ
const BEHIND_FRAMES = CHUNK_FRAMES
const FIRST_FRAMES = 36_000
/** A command waits no longer than this for the sound it needs: then it goes through, and what is not at hand is silent. */
const MOST_WAIT_MILLISECONDS = 3_000

export interface FeedOptions {
  store: AssetStore
  transport: Float64Array
  /** To the worklet, in order. */
  send: (message: FromFeeder, transferred: Transferable[]) => void
  /** Reading failed; told once until it works again. */
  onFailure: (detail: string) => void
}

export class Feed {
  private readonly sent = new Map<AssetId, Set<number>>()
  private plan: MixPlan | null = null
  private loop: { startFrame: number; endFrame: number } | null = null
  private parkedFrame = 0
  /** Commands and ticks are carried out one after the other. */
  private queue: Promise<void> = Promise.resolve()
  private ticking = false
  private failing = false

  constructor(private readonly options: FeedOptions) {}

  /** @returns settles when the command has gone through. */
  receive(message: ToMix): Promise<void> {
    return (this.queue = this.queue.then(() => this.handle(message)).catch(error => this.fail(error)))
  }

  /** Looks what is needed by now; to be called again and again. */
  tick(): Promise<void> {
    if (this.ticking || !this.plan) return this.queue
    this.ticking = true
    return (this.queue = this.queue
      .then(() => within(this.readAhead(), MOST_WAIT_MILLISECONDS, 'the disk'))
      .then(
        () => void (this.failing = false),
        error => this.fail(error),
      )
      .finally(() => (this.ticking = false)))
  }

  private async handle(message: ToMix): Promise<void> {
    if (message.kind === 'plan') {
      this.plan = withKnown(message.plan, this.plan)
      await this.makeReady(this.songFrame)
      const plan = packPlan(message.plan)
      return this.options.send({ kind: 'plan', plan }, buffersOf(plan))
    }
    if (message.kind === 'levels') {
      if (!this.plan) return
      this.plan = withLevels(this.plan, message.levels)
      // What was off may be needed now.
      await this.makeReady(this.songFrame)
    } else if (message.kind === 'play') {
      this.loop = message.loop
      this.parkedFrame = message.fromFrame
      await this.makeReady(message.fromFrame)
    } else if (message.kind === 'stop') this.parkedFrame = this.songFrame
    this.options.send(message, [])
  }

  private async makeReady(frame: number): Promise<void> {
    const { plan } = this
    if (!plan) return
    await within(this.load(plan, [[frame - BEHIND_FRAMES, frame + FIRST_FRAMES]]), MOST_WAIT_MILLISECONDS, 'the disk').then(
      () => (this.failing = false),
      error => this.fail(error),
    )
  }

  private async readAhead(): Promise<void> {
    const { plan, loop } = this
    if (!plan) return
    const at = this.songFrame
    const windows: [number, number][] = [[at - BEHIND_FRAMES, at + (this.isPlaying ? AHEAD_FRAMES : FIRST_FRAMES)]]
    // A loop's start is kept ready for its turn.
    if (loop) windows.push([loop.startFrame - BEHIND_FRAMES, loop.startFrame + FIRST_FRAMES])
    await this.load(plan, windows)
    this.drop(plan, windows)
  }

  private get isPlaying(): boolean {
    return this.options.transport[TRANSPORT.playing] === 1
  }

  private get songFrame(): number {
    return this.isPlaying ? this.options.transport[TRANSPORT.songFrame]! : this.parkedFrame
  }

  private neededIn(plan: MixPlan, windows: [number, number][]): Map<AssetId, Set<number>> {
    const spans = [...soundingSpans(plan), ...plan.standby]
    const needed = new Map<AssetId, Set<number>>()
    for (const [from, to] of windows) {
      for (const [assetId, indices] of chunksNeeded(spans, from, to)) {
        const all = needed.get(assetId) ?? new Set()
        indices.forEach(index => all.add(index))
        needed.set(assetId, all)
      }
    }
    return needed
  }

  private async load(plan: MixPlan, windows: [number, number][]): Promise<void> {
    const { store, send } = this.options
    for (const [assetId, indices] of this.neededIn(plan, windows)) {
      const frames = await store.framesOf(assetId)
      const sent = this.sent.get(assetId) ?? new Set()
      const missing = [...indices].filter(index => !sent.has(index) && index * CHUNK_FRAMES < frames)
      if (missing.length === 0) continue
      const chunks = await store.readChunks(assetId, missing)
      const held = this.sent.get(assetId) ?? new Set()
      this.sent.set(assetId, held)
      missing.forEach((index, i) => {
        // A reading that was given up may come in late, after another has brought the same.
        if (held.has(index)) return
        held.add(index)
        const planes = chunks[i]!
        send(
          { kind: 'chunk', assetId, frames, index, planes },
          planes.map(plane => plane.buffer),
        )
      })
    }
  }

  private drop(plan: MixPlan, windows: [number, number][]): void {
    const needed = this.neededIn(plan, windows)
    for (const [assetId, indices] of this.sent) {
      for (const index of indices) {
        if (needed.get(assetId)?.has(index)) continue
        indices.delete(index)
        this.options.send({ kind: 'drop', assetId, index }, [])
      }
      if (indices.size === 0) this.sent.delete(assetId)
    }
  }

  private fail(error: unknown): void {
    if (!this.failing) this.options.onFailure(String(error))
    this.failing = true
  }
}
