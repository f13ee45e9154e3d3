/** A take goes to the bin at once if nothing plays it; else the singer is asked, and told what would fall silent. And the bin is emptied. */
import { create } from 'zustand'
import type { TakeId } from '../../core/song/schema'
import { requireTake } from '../../core/song/select'
import { binTake, emptyBin, erasableTakes, usesOfTake } from '../../core/song/takes'
import { eraseSounds } from '../../storage/songs'
import { keptSoFar } from './keeper'
import { currentSong, edit, editForGood, useSongStore } from './song-store'

export const useBinQuestion = create<{ takeId: TakeId | null }>(() => ({ takeId: null }))

export function askToBin(takeId: TakeId): void {
  if (usesOfTake(currentSong(), takeId).length > 0) useBinQuestion.setState({ takeId })
  else binNow(takeId)
}

export function binNow(takeId: TakeId): void {
  useBinQuestion.setState({ takeId: null })
  edit(`bin ${requireTake(currentSong(), takeId).name}`, song => binTake(song, { takeId }))
}

/** The takes in the bin are erased with their sound, and with them every step that could bring one back. */
export async function emptyTheBin(): Promise<void> {
  const assetIds = erasableTakes(currentSong()).map(take => take.assetId)
  if (!editForGood(emptyBin).ok) return
  const { history } = useSongStore.getState()
  await keptSoFar()
  // Where it could not be written, what is stored still names the sounds: they stay.
  // What could not be erased now is, when the app is opened the next time.
  if (history) await eraseSounds({ history, assetIds }, new Date().toISOString()).catch(() => {})
}
