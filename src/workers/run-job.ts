/** Runs each job in a worker that does nothing else meanwhile: carries progress, cancels by ending the worker, and notices when one dies. */
import { proxy, releaseProxy, wrap, type Remote } from 'comlink'
import { whenOpen } from '../storage/open-tab'
import type { JobResult, Jobs } from './contract'
import { startJobsThread } from './threads'

type Options<Name extends keyof Jobs> = Parameters<Jobs[Name]>[0]
type Answer<Name extends keyof Jobs> = Awaited<ReturnType<Jobs[Name]>>
type Progress<Name extends keyof Jobs> = Parameters<Jobs[Name]>[1]

/** A worker and its jobs; held together, because Comlink lets go of a worker whose proxy was collected. */
interface Hand {
  worker: Worker
  jobs: Remote<Jobs>
}

/** One that has nothing to do: starting a worker takes longer than many jobs. */
let free: Hand | null = null

/** What stores sound that no song names until it is done. */
const STORING: ReadonlySet<keyof Jobs> = new Set(['importBeat', 'importSong', 'importVoice', 'treatBeat', 'printComp'])

/** Never rejects. What a cancelled job had stored is the caller's to discard. */
export async function runJob<Name extends keyof Jobs>(
  name: Name,
  options: Options<Name>,
  { onProgress = () => {}, signal }: { onProgress?: Progress<Name>; signal?: AbortSignal } = {},
): Promise<JobResult<Answer<Name>>> {
  if (STORING.has(name)) await whenOpen()
  if (signal?.aborted) return { kind: 'cancelled' }
  const hand = free ?? start()
  free = null
  const result = await new Promise<JobResult<Answer<Name>>>(resolve => {
    hand.worker.onerror = event => resolve({ kind: 'failed', reason: 'worker-died', detail: event.message })
    hand.worker.onmessageerror = () => resolve({ kind: 'failed', reason: 'worker-died', detail: 'a message could not be read' })
    signal?.addEventListener('abort', () => resolve({ kind: 'cancelled' }), { once: true })
    const call = hand.jobs[name] as unknown as (options: Options<Name>, onProgress: Progress<Name>) => Promise<Answer<Name>>
    call(options, proxy(onProgress as () => void)).then(
      value => resolve({ kind: 'done', value }),
      (error: Error) => resolve({ kind: 'failed', reason: 'unexpected', detail: `${error.name}: ${error.message}` }),
    )
  })
  if (result.kind === 'done' && !free) rest(hand)
  else end(hand)
  return result
}

function rest(hand: Hand): void {
  free = hand
  hand.worker.onerror = () => {
    if (free === hand) free = null
    end(hand)
  }
}

function start(): Hand {
  const worker = startJobsThread()
  return { worker, jobs: wrap<Jobs>(worker) }
}

function end({ worker, jobs }: Hand): void {
  jobs[releaseProxy]()
  worker.terminate()
}
