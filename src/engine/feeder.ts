/** The feeder: a worker that reads from storage what the mix worklet will need next, and sends it ahead of the commands that need it. */
import { chunksNeeded, CHUNK_FRAMES } from '../core/mix/chunk-window'
import type { MixPlan } from '../core/mix/plan'
import type { AssetId } from '../core/song/schema'
import { makeAssetStore } from '../storage/sounds'
import type { FromFeeder, ToFeeder, ToMix } from './messages'
import { TRANSPORT } from './shared-state'

const TICK_MS = 40
/** Held ahead of the playhead and behind it, while playing and before a command goes through. */
const AHEAD_FRAMES = 3 * 48_000
const BEHIND_FRAMES = CHUNK_FRAMES
const FIRST_FRAMES = 36_000

const store = makeAssetStore()
const sent = new Map<AssetId, Set<number>>()
let port: MessagePort | null = null
let transport: Float64Array | null = null
let plan: MixPlan | null = null
let loop: { startFrame: number; endFrame: number } | null = null
let parkedFrame = 0
/** Commands and ticks are carried out one after the other. */
let queue: Promise<void> = Promise.resolve()
let ticking = false

onmessage = (event: MessageEvent<ToFeeder>) => {
  const message = event.data
  queue = queue.then(() => handle(message))
}
setInterval(() => {
  if (ticking || !plan) return
  ticking = true
  queue = queue.then(tick).finally(() => (ticking = false))
}, TICK_MS)

async function handle(message: ToFeeder): Promise<void> {
  if (message.kind === 'connect') {
    port = message.port
    transport = message.transport
    return
  }
  if (message.kind === 'plan') {
    plan = message.plan
    const at = songFrame()
    await load(plan, [[at - BEHIND_FRAMES, at + FIRST_FRAMES]])
  }
  if (message.kind === 'play') {
    loop = message.loop
    parkedFrame = message.fromFrame
    if (plan) await load(plan, [[message.fromFrame - BEHIND_FRAMES, message.fromFrame + FIRST_FRAMES]])
  }
  if (message.kind === 'stop') parkedFrame = songFrame()
  send(message satisfies ToMix)
}

async function tick(): Promise<void> {
  if (!plan) return
  const at = songFrame()
  const windows: [number, number][] = [[at - BEHIND_FRAMES, at + (isPlaying() ? AHEAD_FRAMES : FIRST_FRAMES)]]
  // A loop's start is kept ready for its turn.
  if (loop) windows.push([loop.startFrame - BEHIND_FRAMES, loop.startFrame + FIRST_FRAMES])
  await load(plan, windows)
  drop(plan, windows)
}

function isPlaying(): boolean {
  return transport?.[TRANSPORT.playing] === 1
}

function songFrame(): number {
  return isPlaying() ? transport![TRANSPORT.songFrame]! : parkedFrame
}

function neededIn(current: MixPlan, windows: [number, number][]): Map<AssetId, Set<number>> {
  const spans = [...[current.beat, ...current.layers].filter(channel => channel.gain > 0).flatMap(channel => channel.spans), ...current.standby]
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

async function load(current: MixPlan, windows: [number, number][]): Promise<void> {
  for (const [assetId, indices] of neededIn(current, windows)) {
    const known = sent.get(assetId) ?? new Set()
    sent.set(assetId, known)
    const frames = await store.framesOf(assetId)
    const missing = [...indices].filter(index => !known.has(index) && index * CHUNK_FRAMES < frames)
    if (missing.length === 0) continue
    const chunks = await store.readChunks(assetId, missing)
    missing.forEach((index, i) => {
      known.add(index)
      const planes = chunks[i]!
      send({ kind: 'chunk', assetId, frames, index, planes }, planes.map(plane => plane.buffer))
    })
  }
}

function drop(current: MixPlan, windows: [number, number][]): void {
  const needed = neededIn(current, windows)
  for (const [assetId, indices] of sent) {
    for (const index of indices) {
      if (needed.get(assetId)?.has(index)) continue
      indices.delete(index)
      send({ kind: 'drop', assetId, index })
    }
    if (indices.size === 0) sent.delete(assetId)
  }
}

function send(message: FromFeeder, transferred: Transferable[] = []): void {
  port?.postMessage(message, transferred)
}
