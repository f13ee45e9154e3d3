/** Calls back in every animation frame, outside React's state: for playheads and meters. */
import { useEffect } from 'react'

export function useFrameLoop(draw: () => void): void {
  useEffect(() => {
    let request = 0
    const step = () => {
      draw()
      request = requestAnimationFrame(step)
    }
    request = requestAnimationFrame(step)
    return () => cancelAnimationFrame(request)
  }, [draw])
}
