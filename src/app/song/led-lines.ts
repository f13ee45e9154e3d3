/** Lines that follow the lead are compared with it whenever it or they come to lie otherwise, whatever room is open. */
import { useEffect, useMemo, useReducer, useRef } from 'react'
import { notePaths, unledLines, type LedLine } from '../../core/align/led-paths'
import { runJob } from '../../workers/run-job'
import { currentSong, editBesideHistory, useSong } from './song-store'

/** So many at once: what is found is heard soon, and the worker is free again. */
const MOST_LINES = 6

const nameOf = ({ layerId, lineId, takeId, basis }: LedLine) => [layerId, lineId, takeId, basis].join(' ')

/** Draws nothing. */
export function LedLines(): null {
  const song = useSong(current => current)
  const wanted = useMemo(() => unledLines(song), [song])
  /** What could not be compared, or kept, is not asked for again and again. */
  const asked = useRef(new Set<string>())
  const isBusy = useRef(false)
  const [round, goOn] = useReducer((count: number) => count + 1, 0)
  useEffect(() => {
    if (isBusy.current) return
    const lines = wanted.filter(line => !asked.current.has(nameOf(line))).slice(0, MOST_LINES)
    if (lines.length === 0) return
    for (const line of lines) asked.current.add(nameOf(line))
    isBusy.current = true
    void runJob('findPaths', { song: currentSong(), lines }).then(result => {
      if (result.kind === 'done') {
        const found = lines.map((line, i) => ({ line, places: result.value[i]! }))
        // A line that comes to lie so once more is compared once more.
        if (editBesideHistory(current => notePaths(current, found)).ok) for (const line of lines) asked.current.delete(nameOf(line))
      }
      isBusy.current = false
      goOn()
    })
  }, [wanted, round])
  return null
}
