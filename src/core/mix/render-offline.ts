/** Rendering a plan from start to end, faster than it plays, with its tail and without silence after it. */
import { BLOCK_FRAMES, type Planar, SAMPLE_RATE_HZ } from '../audio/frames'
import { peakOf } from '../audio/decibels'
import type { AssetId } from '../song/schema'
import { CHUNK_FRAMES, ChunkWindow, chunksNeeded } from './chunk-window'
import { soundingSpans } from './missing-sound'
import type { MixPlan } from './plan'
import { MixRenderer } from './renderer'
import { MOST_LEAD_FRAMES } from './strip'

/** Where whole sounds lie: storage, or memory. */
export interface AssetStore {
  /** Length of an asset in frames. */
  framesOf(assetId: AssetId): Promise<number>
  /** Chunks of CHUNK_FRAMES, in the order asked for. */
  readChunks(assetId: AssetId, indices: number[]): Promise<Planar[]>
}

/** Rendered between two looks into the store, in whole blocks; also how often progress is told. */
const STEP_FRAMES = 192 * BLOCK_FRAMES
/** The ceiling looks ahead by a block, and rows of effects that come late are read early. */
const AHEAD_FRAMES = 2 * BLOCK_FRAMES + MOST_LEAD_FRAMES
/** Softer than this is silence: -110 dBFS, so that parts still sum to the mix where one of them has ended. */
const SILENCE = 3.2e-6
const MAX_TAIL_FRAMES = 24 * SAMPLE_RATE_HZ
/** What is left of the silence after the last sound. */
const KEPT_SILENCE_FRAMES = 2_400

export interface RenderOptions {
  plan: MixPlan
  store: AssetStore
  /** Called in order; the arrays are the callee's to keep. */
  sink: (planes: Planar) => Promise<void> | void
  onProgress?: ((fraction: number) => void) | undefined
  signal?: AbortSignal | undefined
  /** Only this stretch, without tail or trimming. */
  range?: { startFrame: number; endFrame: number } | undefined
}

/** Frames rendered, 0 if nothing sounds at all; null if it was cancelled. */
export async function renderOffline({ plan, store, sink, onProgress, signal, range }: RenderOptions): Promise<number | null> {
  const window = new ChunkWindow()
  const renderer = new MixRenderer(plan, window)
  const spans = soundingSpans(plan)
  const held = new Map<string, [AssetId, number]>()
  const startFrame = range?.startFrame ?? 0
  const soundEnd = range?.endFrame ?? plan.endFrame
  const lastFrame = range ? soundEnd : soundEnd + MAX_TAIL_FRAMES
  const trimmer = range ? null : new SilenceTrimmer()
  let written = 0
  let begun = false
  for (let from = startFrame; from < lastFrame; from += STEP_FRAMES) {
    if (signal?.aborted) return null
    await fill(window, store, chunksNeeded(spans, from - AHEAD_FRAMES, from + STEP_FRAMES + AHEAD_FRAMES), held)
    if (!begun) renderer.seek(startFrame)
    begun = true
    const length = Math.min(STEP_FRAMES, lastFrame - from)
    let planes: Planar = renderStep(renderer, from, length)
    if (trimmer) planes = trimmer.push(planes)
    if (planes[0].length > 0) await sink(planes)
    written += planes[0].length
    onProgress?.(Math.min(1, (from + length - startFrame) / (soundEnd - startFrame)))
    if (trimmer && from + length >= soundEnd && trimmer.silentFrames > SAMPLE_RATE_HZ) break
  }
  if (trimmer && written > 0) {
    const tail = trimmer.finish()
    if (tail[0].length > 0) await sink(tail)
    written += tail[0].length
  }
  return written
}

function renderStep(renderer: MixRenderer, from: number, length: number): Planar {
  const blocks = Math.ceil(length / BLOCK_FRAMES)
  const left = new Float32Array(blocks * BLOCK_FRAMES)
  const right = new Float32Array(blocks * BLOCK_FRAMES)
  for (let block = 0; block < blocks; block++) {
    const at = block * BLOCK_FRAMES
    renderer.render(from + at, left.subarray(at, at + BLOCK_FRAMES), right.subarray(at, at + BLOCK_FRAMES))
  }
  return blocks * BLOCK_FRAMES === length ? [left, right] : [left.slice(0, length), right.slice(0, length)]
}

async function fill(window: ChunkWindow, store: AssetStore, needed: Map<AssetId, Set<number>>, held: Map<string, [AssetId, number]>): Promise<void> {
  for (const [key, [assetId, index]] of held) {
    if (needed.get(assetId)?.has(index)) continue
    window.drop(assetId, index)
    held.delete(key)
  }
  for (const [assetId, indices] of needed) {
    const missing = [...indices].filter(index => !window.has(assetId, index))
    if (missing.length === 0) continue
    const frames = await store.framesOf(assetId)
    const within = missing.filter(index => index * CHUNK_FRAMES < frames)
    const chunks = await store.readChunks(assetId, within)
    within.forEach((index, i) => {
      window.put(assetId, frames, index, chunks[i])
      held.set(`${assetId}/${index}`, [assetId, index])
    })
  }
}

/** Holds silence back until sound follows it. */
class SilenceTrimmer {
  silentFrames = 0
  private held: Planar[] = []

  push(planes: Planar): Planar {
    if (Math.max(...planes.map(peakOf)) <= SILENCE) {
      this.held.push(planes)
      this.silentFrames += planes[0].length
      return planes.map(() => new Float32Array(0))
    }
    // All up to the last sounding frame of this piece goes out; what is silent after it is held.
    let end = planes[0].length
    while (end > 0 && planes.every(plane => Math.abs(plane[end - 1]) <= SILENCE)) end--
    const out = joinPlanes([...this.held, planes.map(plane => plane.subarray(0, end))])
    this.held = end < planes[0].length ? [planes.map(plane => plane.slice(end))] : []
    this.silentFrames = planes[0].length - end
    return out
  }

  finish(): Planar {
    const tail = joinPlanes(this.held)
    return tail.length === 0 ? [new Float32Array(0), new Float32Array(0)] : tail.map(plane => plane.slice(0, KEPT_SILENCE_FRAMES))
  }
}

/** Pieces of equal channel count, one after the other; no channels for no pieces. */
export function joinPlanes(pieces: Planar[]): Planar {
  const length = pieces.reduce((sum, piece) => sum + piece[0].length, 0)
  return (pieces[0] ?? []).map((_, c) => {
    const plane = new Float32Array(length)
    let at = 0
    for (const piece of pieces) {
      plane.set(piece[c], at)
      at += piece[c].length
    }
    return plane
  })
}
