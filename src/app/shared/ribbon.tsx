/** A sound as a mirrored band of cloth: its average as the core, its peaks as a lighter halo, clipping as notches torn into its upper edge. */
import { useEffect, useRef } from 'react'
import { levelFor, type Peaks } from '../../core/audio/peaks'
import type { FrameRange } from '../../core/song/select'
import { ROLE_LOOKS } from '../theme/roles'
import { useTheme } from '../theme/theme-store'
import { isSetAside, useLiveView } from './time-view'

interface RibbonProps {
  peaks: Peaks | null
  /** Song frame of the sound's frame 0. */
  originFrame: number
  /** The stretch of the song that the width stands for. */
  view: FrameRange
  /** Only this stretch of the sound is drawn in full; the rest is faint. */
  bright?: FrameRange[]
  /** Frames at which the baseline has a small gap: phrase edges, quiet places. */
  gaps?: readonly number[]
  /** Where the sound's tops are cut off, in its own frames; if not given, wherever it reaches full scale. */
  clipped?: readonly FrameRange[]
  look: keyof typeof ROLE_LOOKS
  label: string
  opacity?: number
}

/** Fills its parent, which must be positioned. */
export function Ribbon({ peaks, originFrame, view, bright, gaps, clipped, look, label, opacity = 1 }: RibbonProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const theme = useTheme(state => state.theme)
  const drawing = useRef<Drawing | null>(null)
  const live = useLiveView()
  useEffect(() => {
    drawing.current = { peaks, originFrame, view: live?.now ?? view, bright: bright ?? null, gaps: gaps ?? NO_GAPS, clipped: clipped ?? null, look, theme }
    if (canvas.current) drawRibbon(canvas.current, drawing.current)
  }, [peaks, originFrame, view, bright, gaps, clipped, look, theme, live])
  useEffect(
    () =>
      live?.listen(moved => {
        if (!drawing.current || !canvas.current || isSetAside(canvas.current)) return
        drawing.current = { ...drawing.current, view: moved }
        drawRibbon(canvas.current, drawing.current)
      }),
    [live],
  )
  useEffect(() => {
    const element = canvas.current
    if (!element) return
    const observer = new ResizeObserver(entries => {
      const { width, height } = entries[0]!.contentRect
      // Here alone: to ask for it when drawing would lay out the page anew for each of many ribbons.
      element.width = Math.round(width * devicePixelRatio)
      element.height = Math.round(height * devicePixelRatio)
      if (drawing.current) drawRibbon(element, drawing.current)
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  return <canvas ref={canvas} role="img" aria-label={label} style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', opacity }} />
}

const NO_GAPS: readonly number[] = []

interface Drawing {
  peaks: Peaks | null
  originFrame: number
  view: FrameRange
  bright: FrameRange[] | null
  gaps: readonly number[]
  clipped: readonly FrameRange[] | null
  look: keyof typeof ROLE_LOOKS
  theme: 'day' | 'night'
}

/** What is not bright is drawn with this much of its colour. */
const FAINT = 0.32
const BASELINE = 0.45
/** A gap in the baseline, in CSS pixels. */
const GAP_PIXELS = 6
/** How deep a clip's notch goes, in CSS pixels. */
const NOTCH_PIXELS = 6

/** Pixel by pixel into an image: a path of so many corners is slower than all else in the room together. */
function drawRibbon(element: HTMLCanvasElement, { peaks, originFrame, view, bright, gaps, clipped, look, theme }: Drawing): void {
  const { width, height } = element
  const context = width > 0 && height > 0 ? element.getContext('2d') : null
  if (!context) return
  const ratio = devicePixelRatio
  const image = paper(width, height)
  const colours = ROLE_LOOKS[look]
  const core = rgbOf(theme === 'day' ? colours.day : colours.night)
  const halo = rgbOf(theme === 'day' ? colours.dayHalo : colours.nightHalo)
  const pixels = new Uint32Array(image.data.buffer)
  pixels.fill(0)
  const framesPerPixel = (view.endFrame - view.startFrame) / width
  const middle = height / 2
  const baseline = withAlpha(core, BASELINE)
  for (let y = Math.floor(middle - ratio / 2); y < Math.floor(middle - ratio / 2) + Math.max(1, Math.round(ratio)); y++)
    pixels.fill(baseline, y * width, (y + 1) * width)
  for (const gap of gaps) {
    const from = Math.max(0, Math.round((gap - view.startFrame) / framesPerPixel - (GAP_PIXELS / 2) * ratio))
    const to = Math.min(width, from + Math.round(GAP_PIXELS * ratio))
    for (let y = Math.floor(middle - ratio); from < to && y <= middle + ratio; y++) pixels.fill(0, y * width + from, y * width + to)
  }
  const opaque = { core: withAlpha(core, 1), halo: withAlpha(halo, 1) }
  const faint = { core: withAlpha(core, FAINT), halo: withAlpha(halo, FAINT) }
  if (peaks) {
    const level = levelFor(peaks, framesPerPixel)
    const { peak, rms } = columnsOf(level, width, view.startFrame - originFrame, framesPerPixel)
    const isBright = new Uint8Array(width).fill(bright ? 0 : 1)
    for (const range of bright ?? [])
      isBright.fill(1, clamp((range.startFrame - view.startFrame) / framesPerPixel, width), clamp((range.endFrame - view.startFrame) / framesPerPixel, width))
    for (let x = 0; x < width; x++) {
      const inks = isBright[x] === 1 ? opaque : faint
      fillColumn(pixels, width, height, x, heightOf(peak[x]!, middle), inks.halo, 0)
      fillColumn(pixels, width, height, x, heightOf(rms[x]!, middle), inks.core, inks.halo)
    }
    // A wedge at the edge: by its shape told from all else, and never red, which is for recording.
    const notch = withAlpha(rgbOf(theme === 'day' ? '#855000' : '#F0B65A'), 1)
    const notchOver = (from: number, to: number) => {
      const depth = Math.round(NOTCH_PIXELS * ratio)
      for (let y = 0; y < depth; y++) {
        const beside = Math.round((depth - y) / 2)
        pixels.fill(notch, y * width + Math.max(0, from - beside), y * width + Math.min(width, Math.max(from + 1, to) + beside))
      }
    }
    if (!clipped) for (let x = 0; x < width; x++) if (peak[x]! >= 0.999) notchOver(x, x)
    for (const { startFrame, endFrame } of clipped ?? []) {
      const [from, to] = [startFrame, endFrame].map(frame => Math.round((frame + originFrame - view.startFrame) / framesPerPixel)) as [number, number]
      if (to >= 0 && from < width) notchOver(Math.max(0, from), to)
    }
  }
  context.putImageData(image, 0, 0)
}

let lastPaper: ImageData | null = null

/** What ribbons are drawn on before they are put on the screen; the same for all of one size: one for each frame of each would be megabytes to collect. */
function paper(width: number, height: number): ImageData {
  if (lastPaper?.width !== width || lastPaper.height !== height) lastPaper = new ImageData(width, height)
  return lastPaper
}

type Rgb = readonly [number, number, number]

function rgbOf(hex: string): Rgb {
  const value = parseInt(hex.slice(1), 16)
  return [value >> 16, (value >> 8) & 255, value & 255]
}

/** As canvas images hold it: red first in memory, on machines whose low byte is first. */
function withAlpha([red, green, blue]: Rgb, alpha: number): number {
  return ((Math.round(alpha * 255) << 24) | (blue << 16) | (green << 8) | red) >>> 0
}

/** Two colours of such an image mixed; of nothing (0) only the other's alpha is left in part. */
function mix(a: number, b: number, share: number): number {
  if (b === 0) return ((Math.round((a >>> 24) * share) << 24) | (a & 0xffffff)) >>> 0
  const part = (shift: number) => Math.round(((a >>> shift) & 255) * share + ((b >>> shift) & 255) * (1 - share))
  return ((part(24) << 24) | (part(16) << 16) | (part(8) << 8) | part(0)) >>> 0
}

/** The square root opens up what is soft. */
function heightOf(level: number, middle: number): number {
  return middle * 0.94 * Math.sqrt(Math.min(1, level))
}

function clamp(x: number, width: number): number {
  return Math.max(0, Math.min(width, Math.round(x)))
}

/** One column, the same above and below the middle; its outermost pixels are covered in part. @param under What lies under it already; 0 for nothing. */
function fillColumn(pixels: Uint32Array, width: number, height: number, x: number, reach: number, colour: number, under: number): void {
  const middle = height / 2
  const whole = Math.floor(reach)
  const top = Math.max(0, Math.ceil(middle - whole))
  const bottom = Math.min(height, Math.floor(middle + whole))
  for (let y = top, at = top * width + x; y < bottom; y++, at += width) pixels[at] = colour
  const part = reach - whole
  if (part <= 0.02 || top < 1 || bottom >= height) return
  const edge = mix(colour, under, part)
  pixels[(top - 1) * width + x] = edge
  pixels[bottom * width + x] = edge
}

/** Levels for each pixel column. */
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
