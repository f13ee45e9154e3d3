/** Makes the prints that the open song lacks in a worker, nearest to the playhead first; each is heard as soon as it is there. */
import { heardSong } from '../../core/mix/heard'
import { keyOfJob } from '../../core/prints/jobs'
import { missingPrints } from '../../core/prints/plan-prints'
import { runJob } from '../../workers/run-job'
import { addPrint, NO_PRINT_STATE, usePrints } from './prints'
import { useSongStore } from './song-store'
import { useView } from './view-store'

let isMaking = false

/** Looks what the song needs, and makes it one by one; what is not needed any more when its turn comes is left out. */
async function makeMissing(): Promise<void> {
  if (isMaking) return
  isMaking = true
  try {
    for (let job = nextJob(); job; job = nextJob()) {
      const key = keyOfJob(job)
      const result = await runJob('makePrint', { job })
      if (result.kind === 'done' && result.value.kind === 'made') addPrint(key, result.value.assetId)
      else usePrints.setState(({ failed }) => ({ failed: new Set([...failed, key]) }))
    }
  } finally {
    isMaking = false
  }
}

/** What failed is tried once more. */
export function tryPrintsAgain(): void {
  usePrints.setState({ failed: new Set() })
  void makeMissing()
}

function nextJob() {
  const { history } = useSongStore.getState()
  if (!history) return undefined
  const { table, failed } = usePrints.getState()
  // A view may play what the song does not: a take that is auditioned, the layer without one mend.
  const { view, cursorFrame } = useView.getState()
  const missing = missingPrints(heardSong(history.song, view).song, table, cursorFrame).filter(job => !failed.has(keyOfJob(job)))
  usePrints.setState({ waiting: missing.length })
  return missing[0]
}

// One that was dropped is made again.
usePrints.subscribe((state, before) => {
  if (state.table.size < before.table.size) void makeMissing()
})
useView.subscribe((state, before) => {
  if (state.view !== before.view) void makeMissing()
})
useSongStore.subscribe((state, before) => {
  const song = state.history?.song
  if (song === before.history?.song) return
  if (song?.id !== before.history?.song.id) usePrints.setState(NO_PRINT_STATE)
  void makeMissing()
})
