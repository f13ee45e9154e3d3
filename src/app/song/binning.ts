/** A take goes to the bin at once if nothing plays it; else the singer is asked, and told what would fall silent. */
import { create } from 'zustand'
import type { TakeId } from '../../core/song/schema'
import { requireTake } from '../../core/song/select'
import { binTake, usesOfTake } from '../../core/song/takes'
import { currentSong, edit } from './song-store'

export const useBinQuestion = create<{ takeId: TakeId | null }>(() => ({ takeId: null }))

export function askToBin(takeId: TakeId): void {
  if (usesOfTake(currentSong(), takeId).length > 0) useBinQuestion.setState({ takeId })
  else binNow(takeId)
}

export function binNow(takeId: TakeId): void {
  useBinQuestion.setState({ takeId: null })
  edit(`bin ${requireTake(currentSong(), takeId).name}`, song => binTake(song, { takeId }))
}
