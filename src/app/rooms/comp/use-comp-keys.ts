/** Comp's keys, and what they do. */
import { useEffect } from 'react'
import type { LayerId } from '../../../core/song/schema'
import { isOnButton, isTyping } from '../../frame/use-song-keys'
import { play, playheadFrame, playStretch, useLive } from '../../song/live'
import { useView } from '../../song/view-store'
import { changeScope, hint, leaveZoom, setBench, stepStretch, useBench, type Row } from './bench-store'
import { clearStretch, cutAt, keepSeam, nextQuietPlace, nudgeIn, seamsIn, type SeamPlace } from './comping'
import { focusRow, type Bench } from './use-bench'

/** Played round a seam: a second in all. */
const AROUND_FRAMES = 24_000
const NUDGE_FRAMES = 240
const SEAM_STEP_FRAMES = 480
const NO_SEAM = 'No seam is chosen: ] chooses the next one.'

export function playSeam(place: SeamPlace): void {
  void playStretch({ startFrame: place.frame - AROUND_FRAMES, endFrame: place.frame + AROUND_FRAMES })
}

export async function toNextQuietPlace(layerId: LayerId, place: SeamPlace, by: 1 | -1): Promise<void> {
  const next = nextQuietPlace(place, by)
  if (!next) return hint(`There is no quiet place ${by > 0 ? 'after' : 'before'} this seam, as far as the takes were listened to.`)
  await keepSeam(layerId, place.id, next.frame)
  playSeam({ ...place, frame: next.frame })
}

interface KeyActions {
  onPick: (row: Row) => unknown
  /** Picks what is looked at, and goes on. */
  onKeep: () => unknown
  onSingAgain: () => void
  onPutAside: () => void
}

export function useCompKeys(bench: Bench, actions: KeyActions): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey) return
      if (event.key === 'Enter' && isOnButton(event)) return
      const act = actionFor(event, bench, actions)
      if (!act) return
      event.preventDefault()
      act()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  })
}

function actionFor(event: KeyboardEvent, bench: Bench, { onPick, onKeep, onSingAgain, onPutAside }: KeyActions): (() => unknown) | undefined {
  const { song, layer, stretch, rows, focused } = bench
  const state = useBench.getState()
  const step = (by: number) => () => {
    const index = rows.findIndex(row => focused && row.layerId === focused.layerId && row.takeId === focused.takeId)
    const next = rows[Math.max(0, Math.min(rows.length - 1, index + by))]
    if (next) focusRow(bench, next)
  }
  const toggle = (key: 'equalLoudness' | 'barBefore' | 'notes' | 'freeOnly' | 'sideBySide') => () => setBench({ [key]: !state[key] })
  const seams = seamsIn(song, layer.id, bench.view)
  const seam = seams.find(place => place.id.pickId === state.seam?.pickId && place.id.edge === state.seam.edge)
  const stepSeam = (by: number) => () => {
    const index = seam ? seams.indexOf(seam) + by : by > 0 ? 0 : seams.length - 1
    const next = seams[Math.max(0, Math.min(seams.length - 1, index))]
    if (next) setBench({ seam: next.id })
    else hint('There is no seam in view: nothing is picked here.')
  }
  /** What a key does with the chosen seam; without one it says how to choose it. */
  const withSeam = (act: (chosen: SeamPlace) => unknown) => () => (seam ? void act(seam) : hint(NO_SEAM))
  const moveSeamBy = (frames: number) =>
    withSeam(chosen => keepSeam(layer.id, chosen.id, chosen.frame + frames).then(() => playSeam({ ...chosen, frame: chosen.frame + frames })))
  const zoom = (factor: number) => () => {
    const { startFrame, endFrame } = bench.view
    const middle = stretch.startFrame < startFrame || stretch.endFrame > endFrame ? (startFrame + endFrame) / 2 : (stretch.startFrame + stretch.endFrame) / 2
    const half = Math.max(12_000, ((endFrame - startFrame) / 2) * factor)
    setBench({ zoom: { startFrame: Math.round(middle - half), endFrame: Math.round(middle + half) } })
  }
  const hear = (company: typeof state.company) => () => setBench({ company })
  // While it plays, the cut comes where one hears it; else before the chosen stretch's middle word, or at the chosen word.
  const cut = (snap: boolean) => () => {
    const made = cutAt(
      layer.id,
      useLive.getState().playing
        ? playheadFrame()
        : stretch.scope === 'word' || stretch.scope === 'piece'
          ? stretch.startFrame
          : useView.getState().cursorFrame,
      { snap },
    )
    if (!made && !useBench.getState().lockedAsked) hint('There is nothing to cut here: too close to a seam, or nothing plays.')
  }
  const nudge = (frames: number) => () => nudgeIn(layer.id, stretch, now => (frames === 0 ? 0 : now + frames))
  if (event.shiftKey && state.blind === null) {
    const shifted: Record<string, (() => void) | undefined> = {
      ArrowLeft: moveSeamBy(-SEAM_STEP_FRAMES),
      ArrowRight: moveSeamBy(SEAM_STEP_FRAMES),
      ArrowUp: zoom(0.7),
      ArrowDown: zoom(1 / 0.7),
      N: withSeam(chosen => toNextQuietPlace(layer.id, chosen, -1)),
      T: cut(false),
    }
    return shifted[event.key]
  }
  if (event.altKey) return undefined
  const hearing: Record<string, (() => void) | undefined> = {
    a: () => {
      hear('alone')()
      void play(stretch.startFrame)
    },
    b: hear('beat'),
    s: hear('stack'),
    c: () => {
      hear('stack')()
      void play(useView.getState().loopRange?.startFrame ?? stretch.startFrame)
    },
    v: toggle('barBefore'),
    Escape: () => {
      leaveZoom()
      setBench({ focus: null, seam: null, panel: 'none', blind: null })
    },
  }
  // Blind, only what is heard may be changed: all else would give the names away.
  if (state.blind !== null) return hearing[event.key]
  const plain: Record<string, (() => unknown) | undefined> = {
    ...hearing,
    ArrowDown: step(1),
    ArrowUp: step(-1),
    ArrowRight: () => stepStretch(song, layer, 1),
    ArrowLeft: () => stepStretch(song, layer, -1),
    ',': () => changeScope(song, layer, -1),
    '.': () => changeScope(song, layer, 1),
    p: focused ? () => onPick(focused) : undefined,
    Enter: onKeep,
    e: toggle('equalLoudness'),
    i: toggle('notes'),
    f: toggle('freeOnly'),
    y: toggle('sideBySide'),
    t: cut(true),
    '[': stepSeam(-1),
    ']': stepSeam(1),
    j: withSeam(playSeam),
    n: withSeam(chosen => toNextQuietPlace(layer.id, chosen, 1)),
    '-': nudge(-NUDGE_FRAMES),
    '=': nudge(NUDGE_FRAMES),
    '0': nudge(0),
    x: () => (clearStretch(layer.id, stretch) ? undefined : hint('Nothing plays here.')),
    m: onSingAgain,
    o: onPutAside,
  }
  return plain[event.key]
}
