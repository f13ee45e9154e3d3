/** Draws what moves with the sound, outside React's state: playheads, clocks and meters. */
import { useEffect } from 'react'
import { useLive } from '../song/live'
import { useSongStore } from '../song/song-store'
import { useView } from '../song/view-store'
import { useLiveView } from './time-view'

/**
 * Calls back in every animation frame while something moves, and otherwise only when the cursor, the song or the stretch in view has changed:
 * a page that draws nothing leaves the processor to the workers.
 */
export function useFrameLoop(draw: () => void, isMoving: () => boolean = isPlaying): void {
  const live = useLiveView()
  useEffect(() => {
    let request = 0
    const step = () => {
      draw()
      request = isMoving() ? requestAnimationFrame(step) : 0
    }
    const wake = () => {
      request ||= requestAnimationFrame(step)
    }
    step()
    const forget = [useLive, useView, useSongStore].map(store => store.subscribe(wake))
    if (live) forget.push(live.listen(wake))
    return () => {
      cancelAnimationFrame(request)
      for (const stop of forget) stop()
    }
  }, [draw, isMoving, live])
}

function isPlaying(): boolean {
  return useLive.getState().playing
}

/** Sets a text that is drawn again and again; the same text set anew would lay out and paint the page. */
export function say(element: Element | null, text: string): void {
  if (element && element.textContent !== text) element.textContent = text
}
