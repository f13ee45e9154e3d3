/**
 * A drawing over the takes, made anew as the stretch moves. On a canvas of its own, so that what lies beneath is not painted again, and only
 * what is in view is drawn: a stitched line over the whole song cost more than all else on the bench.
 */
import { useEffect, useLayoutEffect, useRef } from 'react'
import type { FrameRange } from '../../../core/song/select'
import { useLiveView } from '../../shared/time-view'
import { useTheme } from '../../theme/theme-store'

/** Of a column of rows, in pixels from its top. */
export interface RowWindow {
  top: number
  height: number
}

export interface TimeDrawing {
  /** In CSS pixels, from the left edge of the stretch and the top of the column of rows. */
  context: CanvasRenderingContext2D
  width: number
  xOf: (frame: number) => number
  /** A colour of the theme by its name. */
  colour: (token: 'ink' | 'brand' | 'card') => string
}

/** @param draw Must stay the same as long as it draws the same. */
export function TimeCanvas({ rows: { top, height }, draw }: { rows: RowWindow; draw: (drawing: TimeDrawing) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const place = useRef({ top, redraw: () => {} })
  const live = useLiveView()
  const theme = useTheme(state => state.theme)
  useEffect(() => {
    const element = canvas.current
    const context = element?.getContext('2d')
    const { current } = place
    if (!live || !element || !context) return
    // Asked for once: in every frame of a gesture it would cost a look at all styles.
    const style = getComputedStyle(element)
    const named = (token: string) => style.getPropertyValue(`--chakra-colors-${token}`).trim()
    const colours = { ink: named('ink'), brand: named('brand'), card: named('card') }
    let width = 0
    const redraw = ({ startFrame, endFrame }: FrameRange) => {
      if (width === 0) return
      context.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, -current.top * devicePixelRatio)
      context.clearRect(0, current.top, width, height)
      draw({ context, width, xOf: frame => ((frame - startFrame) / (endFrame - startFrame)) * width, colour: token => colours[token] })
    }
    current.redraw = () => redraw(live.now)
    const observer = new ResizeObserver(entries => {
      width = entries[0]!.contentRect.width
      element.width = Math.round(width * devicePixelRatio)
      element.height = Math.round(height * devicePixelRatio)
      redraw(live.now)
    })
    observer.observe(element)
    const stop = live.listen(redraw)
    return () => {
      observer.disconnect()
      stop()
    }
  }, [live, height, draw, theme])
  // Scrolled to other rows it is the same canvas, somewhere else.
  useLayoutEffect(() => {
    place.current.top = top
    place.current.redraw()
  }, [top])
  return <canvas ref={canvas} aria-hidden style={{ position: 'absolute', left: 0, top, width: '100%', height, pointerEvents: 'none' }} />
}
