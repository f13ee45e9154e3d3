/**
 * A stretch of the song that is looked at, and moved through without drawing everything anew: what lies on it stands on a tape that is slid
 * and stretched, or draws itself when told; React hears of the new stretch once the gesture rests.
 */
import { createContext, useContext, useEffect, useLayoutEffect, useRef, type CSSProperties, type ReactNode } from 'react'
import type { FrameRange } from '../../core/song/select'

/** The stretch at this moment, and who wants to be told when it moves. */
export interface LiveView {
  now: FrameRange
  move(view: FrameRange): void
  listen(listener: (view: FrameRange) => void): () => void
}

export function makeLiveView(first: FrameRange): LiveView {
  const listeners = new Set<(view: FrameRange) => void>()
  const live: LiveView = {
    now: first,
    move(view) {
      live.now = view
      for (const listener of listeners) listener(view)
    },
    listen(listener) {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
  }
  return live
}

const Context = createContext<LiveView | null>(null)

/** @param view The stretch as React knows it: the one looked at whenever it changes. */
export function TimeView({ live, view, children }: { live: LiveView; view: FrameRange; children: ReactNode }) {
  useLayoutEffect(() => live.move(view), [live, view])
  return <Context.Provider value={live}>{children}</Context.Provider>
}

export function useLiveView(): LiveView | null {
  return useContext(Context)
}

/** Marks what is out of view and need not draw itself while a gesture goes on. */
export function setAside(aside: boolean) {
  return { 'data-set-aside': aside || undefined }
}

export function isSetAside(element: Element): boolean {
  return element.closest('[data-set-aside]') !== null
}

/** What the tape's width stands for; any length will do. */
const TAPE_FRAMES = 1_048_576

/** Holds what is placed by `onTape`, over the whole of its parent. Only its own left and width change when the stretch moves. */
export function Tape({ children, clickable = false }: { children: ReactNode; clickable?: boolean }) {
  const element = useRef<HTMLDivElement>(null)
  const live = useLiveView()
  const place = ({ startFrame, endFrame }: FrameRange) => {
    if (!element.current) return
    element.current.style.left = `${(-startFrame / (endFrame - startFrame)) * 100}%`
    element.current.style.width = `${(TAPE_FRAMES / (endFrame - startFrame)) * 100}%`
  }
  useLayoutEffect(() => {
    if (live) place(live.now)
  })
  useEffect(() => live?.listen(place), [live])
  return (
    <div ref={element} style={{ position: 'absolute', top: 0, bottom: 0, pointerEvents: clickable ? undefined : 'none' }}>
      {children}
    </div>
  )
}

/** Where a frame lies on the tape. */
export function onTape(frame: number): CSSProperties {
  return { left: `${(frame / TAPE_FRAMES) * 100}%` }
}
