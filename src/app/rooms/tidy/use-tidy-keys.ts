/** Tidy's keys. */
import { useEffect } from 'react'
import { SHIFT_RANGE_CENTS } from '../../../core/song/edit-schema'
import { nextRung } from '../../../core/tune/targets'
import { isTyping } from '../../frame/use-song-keys'
import { seek } from '../../song/live'
import { hearTheSong } from '../../song/equal-loudness'
import { useView } from '../../song/view-store'
import { hearAsSung } from './as-sung'
import { toggleMend } from './clean-card'
import { whereOf } from './mend-words'
import { nameOfRung } from './note-words'
import { giveBack, layRung } from './tidying'
import { keyOfMend, keyOfNote, useTidy } from './tidy-store'
import type { Line } from './use-line'

/** The next of a list after the one chosen, or the one before; the first of all, if none is. */
function stepped<T>(list: readonly T[], isChosen: (entry: T) => boolean, by: 1 | -1): T | undefined {
  const at = list.findIndex(isChosen)
  return at < 0 ? list[by > 0 ? 0 : list.length - 1] : list[Math.max(0, Math.min(list.length - 1, at + by))]
}

export function useTidyKeys(line: Line): void {
  useEffect(() => {
    const stepNote = (by: 1 | -1) => {
      const next = stepped(line.notes, note => keyOfNote(note) === useTidy.getState().note, by)
      if (!next) return
      useTidy.setState({ note: keyOfNote(next) })
      seek(next.startFrame)
    }
    const stepMend = (by: 1 | -1) => {
      const next = stepped(line.mends, mend => keyOfMend(mend) === useTidy.getState().mend, by)
      if (!next) return
      useTidy.setState({ mend: keyOfMend(next) })
      seek(next.startFrame)
    }
    const moveRung = (by: 1 | -1) => {
      const note = line.notes.find(entry => keyOfNote(entry) === useTidy.getState().note)
      const { key, colour, tuningCents } = line.song.beat
      if (!note || !key) return
      const rung = nextRung(note.note.targetCents ?? note.note.cents, by, { key, colour, tuningCents })
      if (Math.abs(rung - note.note.cents) <= SHIFT_RANGE_CENTS.max) layRung(note, `draw a note to ${nameOfRung(rung, line.song)}`, rung)
    }
    const stepLayer = (by: 1 | -1) => {
      const next = stepped(line.song.layers, layer => layer.id === line.layer.id, by)
      if (next) useView.setState({ layerId: next.id })
    }
    const ACTIONS: Record<string, () => void> = {
      ArrowRight: () => stepNote(1),
      ArrowLeft: () => stepNote(-1),
      ArrowUp: () => moveRung(1),
      ArrowDown: () => moveRung(-1),
      '.': () => stepMend(1),
      ',': () => stepMend(-1),
      ']': () => stepLayer(1),
      '[': () => stepLayer(-1),
      a: () => (useView.getState().view.kind === 'as-sung' ? hearTheSong() : void hearAsSung(line.layer.id)),
      x: () => {
        const mend = line.mends.find(entry => keyOfMend(entry) === useTidy.getState().mend)
        if (mend) toggleMend(mend, whereOf(mend, line.words))
      },
      '0': () => {
        const note = line.notes.find(entry => keyOfNote(entry) === useTidy.getState().note)
        if (note) layRung(note, 'leave a note as sung', null)
      },
      Backspace: () => {
        const note = line.notes.find(entry => keyOfNote(entry) === useTidy.getState().note)
        if (note) giveBack(note)
      },
    }
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return
      const action = ACTIONS[event.key]
      if (!action || (event.repeat && !event.key.startsWith('Arrow'))) return
      event.preventDefault()
      action()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [line])
}
