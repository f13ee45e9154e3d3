import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import { expose } from 'comlink'
import { MessageChannel, type MessagePort } from 'node:worker_threads'
import type { AssetId } from '../core/song/schema'
import type { Jobs } from './contract'
import { runJob } from './run-job'
import { startJobsThread } from './threads'

// There are no threads of the browser's here: the jobs stand at the other end of a channel.
jest.mock('./threads', () => ({ startJobsThread: jest.fn() }))
jest.mock('../storage/open-tab', () => ({ whenOpen: () => Promise.resolve() }))

type RecoverAsset = (options: { assetId: AssetId }, onProgress: (fraction: number) => void) => Promise<{ frames: number } | null>

/** What the jobs of the next worker do. */
let recover: RecoverAsset
let workers: StandInWorker[] = []
const first = () => workers[0]!
const channels: MessageChannel[] = []

/** As the browser's, and closed when its test is over. */
class ClosedLater extends MessageChannel {
  constructor() {
    super()
    channels.push(this)
  }
}
globalThis.MessageChannel = ClosedLater as never

class StandInWorker {
  onerror: ((event: { message: string }) => void) | null = null
  onmessageerror: (() => void) | null = null
  ended = false
  private readonly ports: [MessagePort, MessagePort]

  constructor() {
    const { port1, port2 } = new ClosedLater()
    this.ports = [port1, port2]
    const jobs = { recoverAsset: (...asked: Parameters<RecoverAsset>) => recover(...asked) } satisfies Partial<Record<keyof Jobs, unknown>>
    expose(jobs, port2 as never)
    port1.start()
    workers.push(this)
  }

  postMessage(message: unknown, transfer: never[]): void {
    if (!this.ended) this.ports[0].postMessage(message, transfer)
  }

  addEventListener(name: string, listener: never): void {
    this.ports[0].addEventListener(name as 'message', listener)
  }

  removeEventListener(name: string, listener: never): void {
    this.ports[0].removeEventListener(name as 'message', listener)
  }

  terminate(): void {
    this.ended = true
    for (const port of this.ports) port.close()
  }
}

const ASKED = { assetId: 'sung' as AssetId }
const never = () => new Promise<never>(() => {})

beforeEach(() => {
  workers = []
  recover = () => Promise.resolve({ frames: 48_000 })
  jest.mocked(startJobsThread).mockImplementation(() => new StandInWorker() as unknown as Worker)
})
afterEach(async () => {
  // The worker that rests is kept for the next job: it must not outlive its test.
  recover = () => Promise.reject(new Error('the test is over'))
  await runJob('recoverAsset', ASKED)
  for (const { port1, port2 } of channels.splice(0)) [port1, port2].forEach(port => port.close())
})

test('a job answers, tells how far it is, and its worker does the next one', async () => {
  recover = async (_, onProgress) => {
    await onProgress(0.5)
    return { frames: 48_000 }
  }
  const fractions: number[] = []
  const done = await runJob('recoverAsset', ASKED, { onProgress: fraction => fractions.push(fraction) })
  expect(done).toEqual({ kind: 'done', value: { frames: 48_000 } })
  expect(fractions).toEqual([0.5])
  await runJob('recoverAsset', ASKED)
  expect(workers).toHaveLength(1)
  expect(first().ended).toBe(false)
})

test('jobs that run at once have a worker each; one of the workers is kept', async () => {
  await Promise.all([runJob('recoverAsset', ASKED), runJob('recoverAsset', ASKED), runJob('recoverAsset', ASKED)])
  expect(workers).toHaveLength(3)
  expect(workers.filter(worker => !worker.ended)).toHaveLength(1)
})

test('cancelled in the middle, the worker is ended at once and another does the next job', async () => {
  recover = never
  const cancel = new AbortController()
  const running = runJob('recoverAsset', ASKED, { signal: cancel.signal })
  await Promise.resolve()
  cancel.abort()
  expect(await running).toEqual({ kind: 'cancelled' })
  expect(first().ended).toBe(true)
  recover = () => Promise.resolve(null)
  expect(await runJob('recoverAsset', ASKED)).toEqual({ kind: 'done', value: null })
  expect(workers).toHaveLength(2)
})

test('given up before it began, no worker is started', async () => {
  expect(await runJob('recoverAsset', ASKED, { signal: AbortSignal.abort() })).toEqual({ kind: 'cancelled' })
  expect(workers).toHaveLength(0)
})

test('an error in a job comes back with its name; the worker, whose state nobody knows, is not used again', async () => {
  recover = () => Promise.reject(new RangeError('too long'))
  expect(await runJob('recoverAsset', ASKED)).toEqual({ kind: 'failed', reason: 'unexpected', detail: 'RangeError: too long' })
  expect(first().ended).toBe(true)
})

test.each([
  ['dies', (worker: StandInWorker) => worker.onerror!({ message: 'out of memory' }), 'out of memory'],
  ['sends what cannot be read', (worker: StandInWorker) => worker.onmessageerror!(), 'a message could not be read'],
])('a worker that %s fails its job in words, and the next job works', async (_, fail, detail) => {
  recover = never
  const running = runJob('recoverAsset', ASKED)
  await Promise.resolve()
  fail(first())
  expect(await running).toEqual({ kind: 'failed', reason: 'worker-died', detail })
  expect(first().ended).toBe(true)
  recover = () => Promise.resolve({ frames: 1 })
  expect(await runJob('recoverAsset', ASKED)).toMatchObject({ kind: 'done' })
})

test('a worker that dies while it rests is not given the next job', async () => {
  await runJob('recoverAsset', ASKED)
  first().onerror!({ message: 'out of memory' })
  expect(await runJob('recoverAsset', ASKED)).toMatchObject({ kind: 'done' })
  expect(workers).toHaveLength(2)
})
