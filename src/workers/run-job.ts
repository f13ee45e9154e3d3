/** Runs each job in a worker that does nothing else meanwhile: carries progress, cancels by ending the worker, and notices when one dies. */
import { proxy, releaseProxy, wrap, type Remote } from 'comlink'
import { whenOpen } from '../storage/open-tab'
import type { JobResult, Jobs } from './contract'
import { startJobsThread } from './threads'

type Options<Name extends keyof Jobs> = Parameters<Jobs[Name]>[0]
type Answer<Name extends keyof Jobs> = Awaited<ReturnType<Jobs[Name]>>
type Progress<Name extends keyof Jobs> = Parameters<Jobs[Name]>[1]

/** A worker and its jobs; held together, because Comlink lets go of a worker whose proxy was collected. */
interface JobsThread {
  worker: Worker
  jobs: Remote<Jobs>
}

/** One that has nothing to do: starting a worker takes longer than many jobs. */
let spare: JobsThread | null = null

/** What stores sound that no song names until it is done. */
const STORING: ReadonlySet<keyof Jobs> = new Set(['importBeat', 'importSong', 'readAdded', 'importVoice', 'makePrint', 'bounceComp', 'deliver'])

/** Never rejects. What a cancelled job had stored is the caller's to discard. */
export async function runJob<Name extends keyof Jobs>(
  name: Name,
  options: Options<Name>,
  { onProgress = () => {}, signal }: { onProgress?: Progress<Name>; signal?: AbortSignal } = {},
): Promise<JobResult<Answer<Name>>> {
  if (STORING.has(name)) await whenOpen()
  if (signal?.aborted) return { kind: 'cancelled' }
  const thread = spare ?? start()
  spare = null
  const result = await new Promise<JobResult<Answer<Name>>>(resolve => {
    thread.worker.onerror = event => resolve({ kind: 'failed', reason: 'worker-died', detail: event.message })
    thread.worker.onmessageerror = () => resolve({ kind: 'failed', reason: 'worker-died', detail: 'a message could not be read' })
    signal?.addEventListener('abort', () => resolve({ kind: 'cancelled' }), { once: true })
    const call = thread.jobs[name] as unknown as (options: Options<Name>, onProgress: Progress<Name>) => Promise<Answer<Name>>
    call(options, proxy(onProgress as () => void)).then(
      value => resolve({ kind: 'done', value }),
      (error: Error) => resolve({ kind: 'failed', reason: 'unexpected', detail: `${error.name}: ${error.message}` }),
    )
  })
  if (result.kind === 'done' && !spare) keepForNext(thread)
  else end(thread)
  return result
}

function keepForNext(thread: JobsThread): void {
  spare = thread
  thread.worker.onerror = () => {
    if (spare === thread) spare = null
    end(thread)
  }
}

function start(): JobsThread {
  const worker = startJobsThread()
  return { worker, jobs: wrap<Jobs>(worker) }
}

function end({ worker, jobs }: JobsThread): void {
  jobs[releaseProxy]()
  worker.terminate()
}
