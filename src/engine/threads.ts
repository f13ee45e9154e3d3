/** Where the code is that runs beside the page: the build gives each part a file of its own. */
import workletUrl from './worklet.ts?worker&url'

export { workletUrl }

export function startFeederThread(): Worker {
  return new Worker(new URL('./feeder.ts', import.meta.url), { type: 'module', name: 'plush-feeder' })
}

export function startWriterThread(): Worker {
  return new Worker(new URL('./capture-writer.ts', import.meta.url), { type: 'module', name: 'plush-capture-writer' })
}
