/** The capture writer: a worker that takes what was captured out of the ring and stores it as it arrives. */
import '../core/without-eval'
import { CHUNK_FRAMES } from '../core/mix/chunk-window'
import type { AssetFacts } from '../core/files/asset'
import type { AssetId } from '../core/song/schema'
import { isQuotaError } from '../storage/database'
import { AssetWriter } from '../storage/sounds'
import { CAPTURE, RING_FRAMES, type CaptureState } from './shared-state'

export type ToWriter = { kind: 'begin'; assetId: AssetId; state: CaptureState } | { kind: 'finish' }
export type FromWriter =
  | { kind: 'begun' }
  | { kind: 'kept'; frames: number }
  | { kind: 'finished'; facts: Pick<AssetFacts, 'frames' | 'clippedRuns'> }
  | { kind: 'failed'; reason: 'storage-full' | 'unexpected'; detail: string; keptFrames: number }

const POLL_MS = 40

let state: CaptureState | null = null
let writer: AssetWriter | null = null
let chunk = new Float32Array(CHUNK_FRAMES)
let filled = 0
let keptFrames = 0
let queue: Promise<void> = Promise.resolve()
let polling = false
let failed = false

onmessage = (event: MessageEvent<ToWriter>) => {
  const message = event.data
  queue = queue.then(() => (message.kind === 'begin' ? begin(message.assetId, message.state) : finish())).catch(report)
}
setInterval(() => {
  if (polling || !writer || failed) return
  polling = true
  queue = queue
    .then(drain)
    .catch(report)
    .finally(() => (polling = false))
}, POLL_MS)

async function begin(assetId: AssetId, captureState: CaptureState): Promise<void> {
  state = captureState
  filled = keptFrames = 0
  failed = false
  writer = await AssetWriter.createForCapture(assetId, 1)
  tell({ kind: 'begun' })
}

/** Everything captured so far goes into chunks; each full chunk is made durable at once. */
async function drain(): Promise<void> {
  if (!state || !writer) return
  const { control, ring } = state
  let read = Atomics.load(control, CAPTURE.readFrames)
  const written = Atomics.load(control, CAPTURE.writtenFrames)
  while (read < written) {
    const at = read % RING_FRAMES
    const count = Math.min(written - read, RING_FRAMES - at, CHUNK_FRAMES - filled)
    chunk.set(ring.subarray(at, at + count), filled)
    filled += count
    read += count
    Atomics.store(control, CAPTURE.readFrames, read)
    if (filled === CHUNK_FRAMES) await keep(chunk)
  }
}

async function keep(samples: Float32Array<ArrayBuffer>): Promise<void> {
  chunk = new Float32Array(CHUNK_FRAMES)
  filled = 0
  await writer!.push([samples])
  await writer!.flush()
  keptFrames += samples.length
  tell({ kind: 'kept', frames: keptFrames })
}

async function finish(): Promise<void> {
  if (!state || !writer) return
  await drain()
  if (filled > 0) await keep(chunk.slice(0, filled))
  const { frames, clippedRuns } = await writer.finish()
  writer = null
  tell({ kind: 'finished', facts: { frames, clippedRuns } })
}

function report(error: unknown): void {
  failed = true
  tell({ kind: 'failed', reason: isQuotaError(error) ? 'storage-full' : 'unexpected', detail: String(error), keptFrames })
}

function tell(message: FromWriter): void {
  postMessage(message)
}
