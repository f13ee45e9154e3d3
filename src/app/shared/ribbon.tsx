/** A sound as a mirrored band of cloth: its average as the core, its peaks as a lighter halo, clipping as red nicks. */
import { Box, type BoxProps } from '@chakra-ui/react'
import { useEffect, useRef } from 'react'
import { levelFor, type Peaks } from '../../core/audio/peaks'
import type { FrameRange } from '../../core/song/select'
import { ROLE_LOOKS } from '../theme/roles'
import { useTheme } from '../theme/theme-store'

interface RibbonProps extends BoxProps {
  peaks: Peaks | null
  /** Song frame of the sound's frame 0. */
  originFrame: number
  /** The stretch of the song that the width stands for. */
  view: FrameRange
  /** Only this stretch of the sound is drawn in full; the rest is faint. */
  bright?: FrameRange[]
  /** Frames at which the baseline has a small gap: phrase edges, quiet places. */
  gaps?: readonly number[]
  look: keyof typeof ROLE_LOOKS
  label: string
}

export function Ribbon({ peaks, originFrame, view, bright, gaps, look, label, ...box }: RibbonProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const theme = useTheme(state => state.theme)
  useEffect(() => {
    const element = canvas.current
    if (!element) return
    const draw = () => drawRibbon(element, { peaks, originFrame, view, bright: bright ?? null, gaps: gaps ?? [], look, theme })
    const observer = new ResizeObserver(draw)
    observer.observe(element)
    draw()
    return () => observer.disconnect()
  }, [peaks, originFrame, view, bright, gaps, look, theme])
  return (
    <Box position="relative" overflow="hidden" {...box}>
      <canvas ref={canvas} role="img" aria-label={label} style={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }} />
    </Box>
  )
}

interface Drawing {
  peaks: Peaks | null
  originFrame: number
  view: FrameRange
  bright: FrameRange[] | null
  gaps: readonly number[]
  look: keyof typeof ROLE_LOOKS
  theme: 'day' | 'night'
}

function drawRibbon(element: HTMLCanvasElement, { peaks, originFrame, view, bright, gaps, look, theme }: Drawing): void {
  const ratio = devicePixelRatio
  const width = Math.round(element.clientWidth * ratio)
  const height = Math.round(element.clientHeight * ratio)
  if (width === 0 || height === 0) return
  element.width = width
  element.height = height
  const context = element.getContext('2d')
  if (!context) return
  const colours = ROLE_LOOKS[look]
  const core = theme === 'day' ? colours.day : colours.night
  const halo = theme === 'day' ? colours.dayHalo : colours.nightHalo
  const middle = height / 2
  context.fillStyle = core
  context.globalAlpha = 0.45
  const framesPerPixel = (view.endFrame - view.startFrame) / width
  context.fillRect(0, middle - ratio / 2, width, ratio)
  for (const gap of gaps) context.clearRect((gap - view.startFrame) / framesPerPixel - 3 * ratio, middle - ratio, 6 * ratio, 2 * ratio)
  if (!peaks) return
  const level = levelFor(peaks, framesPerPixel)
  const columns = columnsOf(level, width, view.startFrame - originFrame, framesPerPixel)
  const inView = (range: FrameRange) => [(range.startFrame - view.startFrame) / framesPerPixel, (range.endFrame - view.startFrame) / framesPerPixel].map(x => Math.max(0, Math.min(width, x))) as [number, number]
  const stretches = bright?.map(inView) ?? [[0, width]]
  // First all of it faintly, then what is bright over it.
  context.globalAlpha = 0.32
  if (bright) fillRibbon(context, columns, middle, halo, core)
  context.globalAlpha = 1
  context.save()
  context.beginPath()
  for (const [from, to] of stretches as [number, number][]) context.rect(from, 0, to - from, height)
  context.clip()
  // What is bright covers the faint under it whole.
  if (bright) {
    context.globalCompositeOperation = 'destination-out'
    fillRibbon(context, columns, middle, '#000', '#000')
    context.globalCompositeOperation = 'source-over'
  }
  fillRibbon(context, columns, middle, halo, core)
  context.restore()
  context.globalAlpha = 1
  context.fillStyle = theme === 'day' ? '#C62F26' : '#FF6F61'
  for (let x = 0; x < width; x++) if (columns.peak[x]! >= 0.999) context.fillRect(x - ratio / 2, 0, 1.5 * ratio, 5 * ratio)
}

/** Levels for each pixel column; the square root opens up what is soft. */
function columnsOf(level: Peaks['levels'][number], width: number, firstFrame: number, framesPerPixel: number): { peak: Float32Array; rms: Float32Array } {
  const peak = new Float32Array(width)
  const rms = new Float32Array(width)
  for (let x = 0; x < width; x++) {
    const from = Math.max(0, Math.floor((firstFrame + x * framesPerPixel) / level.binFrames))
    const to = Math.min(level.peak.length, Math.max(from + 1, Math.ceil((firstFrame + (x + 1) * framesPerPixel) / level.binFrames)))
    if (firstFrame + (x + 1) * framesPerPixel < 0) continue
    let power = 0
    for (let bin = from; bin < to; bin++) {
      peak[x] = Math.max(peak[x]!, level.peak[bin]!)
      power += level.rms[bin]! ** 2
    }
    if (to > from) rms[x] = Math.sqrt(power / (to - from))
  }
  return { peak, rms }
}

function fillRibbon(context: CanvasRenderingContext2D, { peak, rms }: { peak: Float32Array; rms: Float32Array }, middle: number, halo: string, core: string): void {
  fillBand(context, peak, middle, halo)
  fillBand(context, rms, middle, core)
}

function fillBand(context: CanvasRenderingContext2D, levels: Float32Array, middle: number, colour: string): void {
  const height = (x: number) => middle * 0.94 * Math.sqrt(Math.min(1, levels[x]!))
  context.fillStyle = colour
  context.beginPath()
  context.moveTo(0, middle)
  for (let x = 0; x < levels.length; x++) context.lineTo(x, middle - height(x))
  for (let x = levels.length - 1; x >= 0; x--) context.lineTo(x, middle + height(x))
  context.closePath()
  context.fill()
}
