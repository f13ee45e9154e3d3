/** Where the workers' code is: the build gives each a file of its own. */

export function startJobsThread(): Worker {
  return new Worker(new URL('./jobs.ts', import.meta.url), { type: 'module', name: 'plush-jobs' })
}

export function startDecoderThread(): Worker {
  return new Worker(new URL('./decoder.ts', import.meta.url), { type: 'module', name: 'plush-decoder' })
}
