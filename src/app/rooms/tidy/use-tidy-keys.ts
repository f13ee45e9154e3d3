/** Tidy's keys. */
import { useEffect } from 'react'
import { SHIFT_RANGE_CENTS } from '../../../core/song/edit-schema'
import { gainOfStretch } from '../../../core/edits/stretch-level'
import { nextRung } from '../../../core/tune/targets'
import { isTyping } from '../../frame/use-song-keys'
import { seek } from '../../song/live'
import { hearTheSong } from '../../song/equal-loudness'
import { useView } from '../../song/view-store'
import { hearAsSung } from './as-sung'
import { dropEven } from './even-bar'
import { aloneOf, hearWithOrWithout, noteAlone } from './hear-laid'
import { laidOn } from './laid-on'
import { nameOfRung } from './note-words'
import { REACHES, usualFadeOf } from './stretch-bar'
import { takeOff } from './mend-list'
import { giveBack, layGain, layRung } from './tidying'
import { EVEN_DECIBELS, keyOfNote, lookAtNote, useTidy } from './tidy-store'
import type { Line } from './use-line'
import type { Stretch } from './use-stretch'

/** The next of a list after the one chosen, or the one before; the first of all, if none is. */
function stepped<T>(list: readonly T[], isChosen: (entry: T) => boolean, by: 1 | -1): T | undefined {
  const at = list.findIndex(isChosen)
  return at < 0 ? list[by > 0 ? 0 : list.length - 1] : list[Math.max(0, Math.min(list.length - 1, at + by))]
}

const LEVEL_STEP_DECIBELS = 0.5
/** Keys that go on while they are held. */
const HELD_KEYS = new Set(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', '=', '+', '-'])

export function useTidyKeys(line: Line, stretch: Stretch): void {
  useEffect(() => {
    const stepNote = (by: 1 | -1) => {
      const next = stepped(line.notes, note => keyOfNote(note) === useTidy.getState().note, by)
      if (!next) return
      lookAtNote(next)
      seek(next.startFrame)
    }
    const stepMend = (by: 1 | -1) => {
      const { mend, note } = useTidy.getState()
      const all = laidOn(line)
      const looked = line.notes.find(entry => keyOfNote(entry) === note)
      // From a note on, to what is laid beside it.
      const beside = looked && (by > 0 ? all.find(laid => laid.startFrame >= looked.startFrame) : all.findLast(laid => laid.startFrame < looked.startFrame))
      const next = (mend === null && beside) || stepped(all, laid => laid.key === mend, by)
      if (!next) return
      useTidy.setState({ mend: next.key })
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
    const changeLevel = (by: number) => {
      const gain = gainOfStretch(line.song, line.layer, stretch)
      const gainDecibels = Math.round(10 * ((gain?.gainDecibels ?? 0) + by)) / 10
      layGain(line.layer.id, `${stretch.name} by ${gainDecibels} dB`, { stretch, gainDecibels, fadeFrames: gain?.fadeFrames ?? usualFadeOf(stretch) })
    }
    const stepReach = () => useTidy.setState({ reach: REACHES[(REACHES.indexOf(stretch.reach) + 1) % REACHES.length]! })
    const ACTIONS: Record<string, () => void> = {
      ArrowRight: () => stepNote(1),
      ArrowLeft: () => stepNote(-1),
      ArrowUp: () => moveRung(1),
      ArrowDown: () => moveRung(-1),
      '.': () => stepMend(1),
      ',': () => stepMend(-1),
      ']': () => stepLayer(1),
      '[': () => stepLayer(-1),
      '=': () => changeLevel(LEVEL_STEP_DECIBELS),
      '+': () => changeLevel(LEVEL_STEP_DECIBELS),
      '-': () => changeLevel(-LEVEL_STEP_DECIBELS),
      s: stepReach,
      z: () => useTidy.setState(({ isNear }) => ({ isNear: !isNear })),
      e: () => useTidy.setState(({ evenDecibels }) => ({ evenDecibels: evenDecibels === null ? EVEN_DECIBELS : null })),
      Escape: dropEven,
      a: () => (useView.getState().view.kind !== 'song' ? hearTheSong() : void hearAsSung(line.layer.id)),
      x: () => {
        const laid = laidOn(line).find(entry => entry.key === useTidy.getState().mend)
        if (laid) takeOff(laid, line)
      },
      h: () => {
        const { mend, note: chosen } = useTidy.getState()
        const laid = laidOn(line).find(entry => entry.key === mend)
        const note = line.notes.find(entry => keyOfNote(entry) === chosen)
        if (laid) void hearWithOrWithout(aloneOf(laid), line)
        else if (note) void hearWithOrWithout(noteAlone(note), line)
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
      if (!action || (event.repeat && !HELD_KEYS.has(event.key))) return
      event.preventDefault()
      action()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [line, stretch])
}
