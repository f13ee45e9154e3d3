/** A job that one starts by hand: how far it is, whether it failed, and a way to end it. */
import { useRef, useState } from 'react'
import type { JobResult, Jobs } from '../../workers/contract'
import { runJob } from '../../workers/run-job'

type Answer<Name extends keyof Jobs> = Awaited<ReturnType<Jobs[Name]>>

export function useJob() {
  const [fraction, setFraction] = useState<number | null>(null)
  const [failed, setFailed] = useState(false)
  const controller = useRef<AbortController | null>(null)
  /** @returns null where it was cancelled, or failed. */
  async function run<Name extends keyof Jobs>(name: Name, options: Parameters<Jobs[Name]>[0]): Promise<Answer<Name> | null> {
    controller.current = new AbortController()
    setFraction(0)
    setFailed(false)
    const onProgress = setFraction as unknown as Parameters<Jobs[Name]>[1]
    const result: JobResult<Answer<Name>> = await runJob(name, options, { onProgress, signal: controller.current.signal })
    setFraction(null)
    setFailed(result.kind === 'failed')
    return result.kind === 'done' ? (result.value as Answer<Name>) : null
  }
  /** `fraction`: 0 to 1 while it runs, otherwise null. */
  return { fraction, failed, run, cancel: () => controller.current?.abort() }
}
