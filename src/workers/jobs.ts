/** The worker: all jobs behind one door. */
import '../core/without-eval'
import { expose } from 'comlink'
import { database } from '../storage/database'
import { beatJobs } from './beat-jobs'
import type { Jobs, OnProgress } from './contract'
import { mixJobs } from './mix-jobs'
import { readyDecoder } from './open-beside'
import { backUp, exportSong, importSong, readAdded } from './song-files'
import { voiceJobs } from './voice-jobs'

const jobs: Jobs = {
  async getReady() {
    readyDecoder()
    await database.open()
  },
  ...beatJobs,
  ...voiceJobs,
  ...mixJobs,
  exportSong,
  importSong,
  backUp,
  readAdded,
}

const TELL_MILLISECONDS = 100

/** A job that tells how far it is at most ten times a second, for each telling is drawn; what it finds it tells at once. */
function calmly(job: (options: never, onProgress: OnProgress<unknown>) => unknown) {
  return (options: never, onProgress: OnProgress<unknown>) => {
    let told = -Infinity
    return job(options, (fraction, found) => {
      const now = performance.now()
      if (found === undefined && now - told < TELL_MILLISECONDS) return
      told = now
      onProgress(fraction, found)
    })
  }
}

expose(Object.fromEntries(Object.entries(jobs).map(([name, job]) => [name, calmly(job)])))
