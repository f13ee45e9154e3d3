/** Workers that store what is captured: one has loaded its code before it is needed, so that recording begins without waiting for it. */
import { startWriterThread } from './threads'

let spare: Worker | null = null

/** To be called when a recording may come. */
export function warmUp(): void {
  spare ??= startWriterThread()
}

/** One for one capture. */
export function takeWriter(): Worker {
  const writer = spare ?? startWriterThread()
  spare = null
  return writer
}
