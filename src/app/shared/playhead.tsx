/** The line that moves with the sound over a stretch of the song. */
import { Box } from '@chakra-ui/react'
import { useCallback, useRef } from 'react'
import type { FrameRange } from '../../core/song/select'
import { playheadFrame } from '../song/live'
import { useFrameLoop } from './use-frame-loop'

export function Playhead({ view }: { view: FrameRange }) {
  const line = useRef<HTMLDivElement>(null)
  const draw = useCallback(() => {
    const element = line.current
    if (!element?.parentElement) return
    const fraction = (playheadFrame() - view.startFrame) / (view.endFrame - view.startFrame)
    element.style.visibility = fraction >= 0 && fraction <= 1 ? 'visible' : 'hidden'
    element.style.transform = `translateX(${fraction * element.parentElement.clientWidth - 1}px)`
  }, [view])
  useFrameLoop(draw)
  return <Box ref={line} aria-hidden position="absolute" top={0} bottom={0} left={0} width="2px" bg="brand" pointerEvents="none" zIndex={3} />
}
