/** The bench: bars and words above, the takes under each other at one time scale, the thread and its seams through what is picked. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { Box } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import type { Proposal } from '../../../core/comp/propose-comp'
import type { FrameRange } from '../../../core/song/select'
import { BarLines } from '../../shared/bar-lines'
import { Playhead } from '../../shared/playhead'
import { makeLiveView, TimeView, type LiveView } from '../../shared/time-view'
import { noteGesture, setBench, type Row } from './bench-store'
import { BenchHead } from './bench-head'
import { BenchRows } from './bench-rows'
import { LABEL_WIDTH } from './take-strip'
import type { Bench } from './use-bench'

export function BenchView({ bench, onPick, proposals }: { bench: Bench; onPick: (row: Row) => void; proposals: readonly Proposal[] }) {
  const [live] = useState(() => makeLiveView(bench.view))
  const frame = useRef<HTMLDivElement>(null)
  useWheel(frame, live, bench.view)
  return (
    <Box ref={frame} height="100%">
      <TimeView live={live} view={bench.view}>
        <Box role="group" aria-label="The takes" position="relative" display="flex" flexDirection="column" height="100%" minH={0}>
          <Box position="absolute" top={0} bottom={0} left={`${LABEL_WIDTH}px`} right="14px" pointerEvents="none" zIndex={3} overflow="hidden">
            <BarLines grid={bench.song.beat.grid} view={bench.view} top="6px" beyond={1} />
            <Playhead view={bench.view} />
          </Box>
          <BenchHead bench={bench} />
          <BenchRows bench={bench} onPick={onPick} proposals={proposals} />
        </Box>
      </TimeView>
    </Box>
  )
}

/** A gesture has ended when nothing has come for so long: then the new stretch is drawn in full. */
const REST_MILLISECONDS = 160
const LEAST_FRAMES = 24_000
const MOST_FRAMES = SAMPLE_RATE_HZ * 600

/** Ctrl and the wheel zooms round the pointer, the wheel sideways (or with Shift) scrolls. */
function useWheel(frame: React.RefObject<HTMLDivElement | null>, live: LiveView, settled: FrameRange): void {
  const settledView = useRef(settled)
  useEffect(() => {
    settledView.current = settled
  }, [settled])
  useEffect(() => {
    const element = frame.current
    if (!element) return
    let settling: ReturnType<typeof setTimeout> | undefined
    // Asked for once a gesture: in every frame of it, it would lay the page out twice.
    let box: DOMRect | null = null
    const end = () => {
      clearTimeout(settling)
      box = null
    }
    const move = (view: FrameRange) => {
      live.move(view)
      clearTimeout(settling)
      noteGesture(() => {
        end()
        live.move(settledView.current)
      })
      settling = setTimeout(() => {
        end()
        noteGesture(null)
        setBench({ zoom: live.now })
      }, REST_MILLISECONDS)
    }
    const onWheel = (event: WheelEvent) => {
      const { startFrame, endFrame } = live.now
      const length = endFrame - startFrame
      const sideways = event.shiftKey ? event.deltaY : event.deltaX
      if (event.ctrlKey) {
        event.preventDefault()
        box ??= element.getBoundingClientRect()
        const part = Math.max(0, Math.min(1, (event.clientX - box.left - LABEL_WIDTH) / (box.width - LABEL_WIDTH - 14)))
        const next = Math.max(LEAST_FRAMES, Math.min(MOST_FRAMES, length * Math.exp(event.deltaY / 400)))
        const start = startFrame + part * (length - next)
        move({ startFrame: Math.round(start), endFrame: Math.round(start + next) })
      } else if (Math.abs(sideways) > Math.abs(event.shiftKey ? 0 : event.deltaY)) {
        event.preventDefault()
        const by = Math.round((sideways / 800) * length)
        move({ startFrame: startFrame + by, endFrame: endFrame + by })
      }
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => {
      end()
      noteGesture(null)
      element.removeEventListener('wheel', onWheel)
    }
  }, [frame, live])
}
