/** A take's pitch line over the notes of the key, and how late each of its onsets is against the beat. */
import { Box } from '@chakra-ui/react'
import { useEffect, useRef } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { scaleSemitones, TONICS } from '../../../core/beat/key-names'
import { centsOver } from '../../../core/comp/candidates'
import type { Beat } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import type { VoiceAnalysis } from '../../../core/voice/analyse-voice'
import { lateMilliseconds } from '../../../core/voice/line-facts'
import { formatPitchClass } from '../../shared/format'
import { isSetAside, useLiveView } from '../../shared/time-view'
import { useTheme } from '../../theme/theme-store'

const LATE_MILLISECONDS = 15
/** Onsets further apart than this, in pixels, have their number. */
const LABEL_PIXELS = 34

export function NotesOverlay({ analysis, originFrame, view, beat }: { analysis: VoiceAnalysis; originFrame: number; view: FrameRange; beat: Beat }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const theme = useTheme(state => state.theme)
  const live = useLiveView()
  useEffect(() => {
    const element = canvas.current
    if (!element) return
    const draw = () => drawNotes(element, { analysis, originFrame, view: live?.now ?? view, beat })
    const observer = new ResizeObserver(draw)
    observer.observe(element)
    const stop = live?.listen(() => {
      if (!isSetAside(element)) draw()
    })
    draw()
    return () => {
      observer.disconnect()
      stop?.()
    }
  }, [analysis, originFrame, view, beat, theme, live])
  return (
    <Box position="absolute" inset={0} pointerEvents="none">
      <canvas ref={canvas} aria-hidden style={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }} />
    </Box>
  )
}

function drawNotes(
  element: HTMLCanvasElement,
  { analysis, originFrame, view, beat }: { analysis: VoiceAnalysis; originFrame: number; view: FrameRange; beat: Beat },
): void {
  const ratio = devicePixelRatio
  const width = Math.round(element.clientWidth * ratio)
  const height = Math.round(element.clientHeight * ratio)
  const context = element.getContext('2d')
  if (width === 0 || !context) return
  element.width = width
  element.height = height
  const style = getComputedStyle(element)
  const colour = (token: string) => style.getPropertyValue(`--chakra-colors-${token}`).trim()
  const cents = centsOver(analysis, originFrame, view)
  const sung = cents.filter(value => value === value)
  const x = (frame: number) => ((frame - view.startFrame) / (view.endFrame - view.startFrame)) * width
  if (sung.length > 0) {
    const low = sung.reduce((least, value) => Math.min(least, value), Infinity) - 150
    const high = sung.reduce((most, value) => Math.max(most, value), -Infinity) + 150
    const y = (value: number) => height - ((value - low) / (high - low)) * height
    context.font = `${10 * ratio}px Figtree Variable, sans-serif`
    context.fillStyle = colour('ink-soft')
    context.strokeStyle = colour('seamline')
    context.lineWidth = ratio
    for (const { value, name } of notesBetween(low, high, beat)) {
      context.beginPath()
      context.moveTo(0, y(value))
      context.lineTo(width, y(value))
      context.stroke()
      context.fillText(name, 2 * ratio, y(value) - 2 * ratio)
    }
    context.strokeStyle = colour('ink')
    context.lineWidth = 1.8 * ratio
    context.beginPath()
    let down = false
    cents.forEach((value, i) => {
      if (value !== value) return void (down = false)
      const at = x(view.startFrame + i * analysis.hopSeconds * SAMPLE_RATE_HZ)
      if (down) context.lineTo(at, y(value))
      else context.moveTo(at, y(value))
      down = true
    })
    context.stroke()
  }
  let labelled = -Infinity
  for (const seconds of analysis.onsetSeconds) {
    const frame = originFrame + seconds * SAMPLE_RATE_HZ
    if (frame < view.startFrame || frame > view.endFrame) continue
    const late = lateMilliseconds(beat.grid, frame)
    const off = Math.abs(late) >= LATE_MILLISECONDS
    context.fillStyle = colour(off ? 'warn' : 'ok')
    context.fillRect(x(frame) - ratio, height - 8 * ratio, 2 * ratio, 8 * ratio)
    if (!off || x(frame) - labelled < LABEL_PIXELS * ratio) continue
    labelled = x(frame)
    context.fillText(`${late > 0 ? '+' : '−'}${Math.abs(late).toFixed(0)}`, x(frame) + 3 * ratio, height - 2 * ratio)
  }
}

/** The notes of the key, at the beat's tuning; every semitone where no key is known. */
function notesBetween(low: number, high: number, { key, tuningCents }: Beat): { value: number; name: string }[] {
  const tonic = key ? TONICS.indexOf(key.tonic) : 0
  const scale = key ? scaleSemitones(key.mode) : [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]
  const notes: { value: number; name: string }[] = []
  for (let semitone = Math.ceil((low - tuningCents) / 100); semitone * 100 + tuningCents <= high; semitone++) {
    // 440 Hz is the A above the tonic C.
    const pitchClass = (((semitone + 9) % 12) + 12) % 12
    if (scale.includes((pitchClass - tonic + 12) % 12)) notes.push({ value: semitone * 100 + tuningCents, name: formatPitchClass(pitchClass, key) })
  }
  return notes
}
