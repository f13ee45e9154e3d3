/** Workers that store what is captured: one has loaded its code before it is needed, so that recording begins without waiting for it. */

let spare: Worker | null = null

function start(): Worker {
  return new Worker(new URL('./capture-writer.ts', import.meta.url), { type: 'module', name: 'plush-capture-writer' })
}

/** To be called when a recording may come. */
export function warmUp(): void {
  spare ??= start()
}

/** One for one capture. */
export function takeWriter(): Worker {
  const writer = spare ?? start()
  spare = null
  return writer
}
