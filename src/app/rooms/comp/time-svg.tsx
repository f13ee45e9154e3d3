/** A drawing whose horizontal unit is the frame: moving through time changes nothing but its window. */
import { useEffect, useRef, type ReactNode } from 'react'
import { useLiveView } from '../../shared/time-view'

export function TimeSvg({ height, children }: { height: number; children: ReactNode }) {
  const svg = useRef<SVGSVGElement>(null)
  const live = useLiveView()
  useEffect(() => {
    if (!live) return
    const place = () => svg.current?.setAttribute('viewBox', `${live.now.startFrame} 0 ${live.now.endFrame - live.now.startFrame} ${height}`)
    place()
    return live.listen(place)
  }, [live, height])
  return (
    <svg ref={svg} width="100%" height={height} preserveAspectRatio="none" aria-hidden style={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none' }}>
      {children}
    </svg>
  )
}
