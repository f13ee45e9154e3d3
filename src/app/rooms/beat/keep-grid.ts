/** Changing tempo, metre or bar one; where the sheet cannot keep both its time and its bars, the singer is asked first. */
import { create } from 'zustand'
import type { Grid } from '../../../core/beat/grid'
import type { Song } from '../../../core/song/schema'
import { setGrid } from '../../../core/song/sections'
import { staysUnder, type SheetStays } from '../../../core/song/sheet-by-grid'
import { makeId } from '../../../storage/database'
import { currentSong, edit } from '../../song/song-store'

type Source = Song['beat']['gridSource']

interface GridQuestion {
  label: string
  grid: Grid
  source: Source
  /** How far lines move if they stay in their bars. */
  movesFrames: number
}

export const useGridQuestion = create<{ asked: GridQuestion | null }>(() => ({ asked: null }))

export function keepGrid(label: string, change: (grid: Grid) => Grid, source: Source = 'typed'): void {
  const song = currentSong()
  const grid = change(song.beat.grid)
  const answer = staysUnder(song, grid)
  if ('stays' in answer) edit(label, now => setGrid(now, { grid, makeId, source, stays: answer.stays }))
  else useGridQuestion.setState({ asked: { label, grid, source, movesFrames: answer.movesFrames } })
}

export function answerGrid(stays: SheetStays): void {
  const { asked } = useGridQuestion.getState()
  useGridQuestion.setState({ asked: null })
  if (asked) edit(asked.label, now => setGrid(now, { grid: asked.grid, makeId, source: asked.source, stays }))
}
