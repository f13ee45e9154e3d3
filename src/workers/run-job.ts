/** Runs a job in a worker of its own: carries progress, cancels by ending the worker, and notices when one dies. */
import { proxy, releaseProxy, wrap } from 'comlink'
import type { JobResult, Jobs } from './contract'

type Options<Name extends keyof Jobs> = Parameters<Jobs[Name]>[0]
type Answer<Name extends keyof Jobs> = Awaited<ReturnType<Jobs[Name]>>
type Progress<Name extends keyof Jobs> = Parameters<Jobs[Name]>[1]

/** Never rejects. What a cancelled job had stored is the caller's to discard. */
export async function runJob<Name extends keyof Jobs>(name: Name, options: Options<Name>, { onProgress = () => {}, signal }: { onProgress?: Progress<Name>; signal?: AbortSignal } = {}): Promise<JobResult<Answer<Name>>> {
  if (signal?.aborted) return { kind: 'cancelled' }
  const worker = new Worker(new URL('./jobs.ts', import.meta.url), { type: 'module', name: `plush-${name}` })
  const remote = wrap<Jobs>(worker)
  try {
    return await new Promise<JobResult<Answer<Name>>>(resolve => {
      worker.onerror = event => resolve({ kind: 'failed', reason: 'worker-died', detail: event.message })
      worker.onmessageerror = () => resolve({ kind: 'failed', reason: 'worker-died', detail: 'a message could not be read' })
      signal?.addEventListener('abort', () => resolve({ kind: 'cancelled' }), { once: true })
      const call = remote[name] as unknown as (options: Options<Name>, onProgress: Progress<Name>) => Promise<Answer<Name>>
      call(options, proxy(onProgress as () => void)).then(
        value => resolve({ kind: 'done', value }),
        (error: Error) => resolve({ kind: 'failed', reason: 'unexpected', detail: `${error.name}: ${error.message}` }),
      )
    })
  } finally {
    // Named here so that it lives as long as the job: Comlink lets go of a worker whose proxy was collected.
    remote[releaseProxy]()
    worker.terminate()
  }
}
