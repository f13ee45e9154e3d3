/** The line that moves with the sound over a stretch of the song. */
import { Box } from '@chakra-ui/react'
import { useCallback, useRef } from 'react'
import type { FrameRange } from '../../core/song/select'
import { playheadFrame } from '../song/live'
import { useLiveView } from './time-view'
import { useFrameLoop } from './use-frame-loop'

export function Playhead({ view }: { view: FrameRange }) {
  const line = useRef<HTMLDivElement>(null)
  const live = useLiveView()
  const draw = useCallback(() => {
    const element = line.current
    if (!element) return
    const { startFrame, endFrame } = live?.now ?? view
    const fraction = (playheadFrame() - startFrame) / (endFrame - startFrame)
    element.style.visibility = fraction >= 0 && fraction <= 1 ? 'visible' : 'hidden'
    // A share of its own width, which is its parent's: nothing has to be measured in every frame.
    element.style.transform = `translateX(${100 * fraction}%)`
  }, [view, live])
  useFrameLoop(draw)
  return <Box ref={line} aria-hidden position="absolute" inset="0 0 0 -1px" borderLeftWidth="2px" borderColor="brand" pointerEvents="none" zIndex={3} />
}
