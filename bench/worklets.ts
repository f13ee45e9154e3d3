/** A window into the app as it is built: what its worklets share with the page, noted as they are made. */
import type { BrowserContext, Page } from '@playwright/test'

export async function noteWorklets(context: BrowserContext): Promise<void> {
  // What runs this file names functions with a helper, also those that are sent to the page.
  await context.addInitScript('globalThis.__name ??= f => f')
  await context.addInitScript(() => {
    const noted = ((globalThis as unknown as { worklets: Record<string, unknown> }).worklets = {} as Record<string, unknown>)
    globalThis.AudioWorkletNode = class extends AudioWorkletNode {
      constructor(audio: BaseAudioContext, name: string, options?: AudioWorkletNodeOptions) {
        super(audio, name, options)
        noted[name] = options?.processorOptions
      }
    }
  })
}

/** Longest wait for the disk over some seconds, in frames: captured, and not yet stored. */
export function longestBacklog(page: Page, seconds: number, writtenPlace: number, readPlace: number): Promise<number> {
  return page.evaluate(
    async ([sampleSeconds, written, read]) => {
      const { control } = (globalThis as unknown as { worklets: Record<string, { control: Int32Array }> }).worklets['plush-capture']!
      let most = 0
      for (const end = performance.now() + 1_000 * sampleSeconds!; performance.now() < end;) {
        most = Math.max(most, Atomics.load(control, written!) - Atomics.load(control, read!))
        await new Promise(resolve => setTimeout(resolve, 10))
      }
      return most
    },
    [seconds, writtenPlace, readPlace],
  )
}
