/** A drawing whose horizontal unit is the frame: moving through time changes nothing but its window. Only the rows in view are painted. */
import { useEffect, useRef, type ReactNode } from 'react'
import { useLiveView } from '../../shared/time-view'

/** Of a column of rows, in pixels from its top. */
export interface RowWindow {
  top: number
  height: number
}

export function TimeSvg({ rows: { top, height }, children }: { rows: RowWindow; children: ReactNode }) {
  const svg = useRef<SVGSVGElement>(null)
  const live = useLiveView()
  useEffect(() => {
    if (!live) return
    const place = () => svg.current?.setAttribute('viewBox', `${live.now.startFrame} ${top} ${live.now.endFrame - live.now.startFrame} ${height}`)
    place()
    return live.listen(place)
  }, [live, top, height])
  return (
    <svg ref={svg} width="100%" height={height} preserveAspectRatio="none" aria-hidden style={{ position: 'absolute', left: 0, top, overflow: 'hidden', pointerEvents: 'none' }}>
      {children}
    </svg>
  )
}
