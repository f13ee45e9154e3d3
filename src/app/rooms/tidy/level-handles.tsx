/** On the level under the notes: a stretch is drawn freely, and the fades of a gain are moved by their handles. */
import { Box, chakra } from '@chakra-ui/react'
import { useState, type KeyboardEvent, type PointerEvent } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { setGainInStretch, type GainInSong } from '../../../core/edits/stretch-level'
import { FADE_RANGE_FRAMES } from '../../../core/song/edit-schema'
import type { LayerId } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { tryOut } from '../../song/song-store'
import { HEIGHT, LEFT, LEVEL_HALF, LEVEL_Y, levelY, RIGHT, type Frame } from './ladder-frame'
import { layGain } from './tidying'
import { useTidy } from './tidy-store'

/** A shorter pull is a slip of the hand. */
const LEAST_PIXELS = 6
const LEAST_FRAMES = 2_400

/** Drawing over the level makes the stretch that is drawn the one whose level and time are typed. */
export function LevelSurface({ frame }: { frame: Frame }) {
  const onPointerDown = (event: PointerEvent<HTMLDivElement>) => {
    const surface = event.currentTarget
    const { left } = surface.parentElement!.getBoundingClientRect()
    const startX = event.clientX
    surface.setPointerCapture(event.pointerId)
    const onMove = (move: globalThis.PointerEvent) => {
      if (Math.abs(move.clientX - startX) < LEAST_PIXELS) return
      const [a, b] = [startX, move.clientX].map(x => Math.round(frame.at(x - left))).sort((one, other) => one - other) as [number, number]
      if (b - a >= LEAST_FRAMES) useTidy.setState({ reach: 'free', free: { startFrame: a, endFrame: b } })
    }
    const finish = () => {
      surface.removeEventListener('pointermove', onMove)
      surface.removeEventListener('pointerup', finish)
      surface.removeEventListener('pointercancel', finish)
    }
    surface.addEventListener('pointermove', onMove)
    surface.addEventListener('pointerup', finish)
    surface.addEventListener('pointercancel', finish)
  }
  return (
    <Box
      position="absolute"
      left={`${LEFT}px`}
      right={`${RIGHT}px`}
      top={`${LEVEL_Y - LEVEL_HALF}px`}
      height={`${2 * LEVEL_HALF}px`}
      cursor="text"
      touchAction="none"
      title="Draw over it for a stretch of your own"
      onPointerDown={onPointerDown}
    />
  )
}

/** What the level and the time are for. */
export function StretchHem({ stretch, frame }: { stretch: FrameRange; frame: Frame }) {
  const left = Math.max(LEFT, frame.x(stretch.startFrame))
  const right = Math.min(frame.right, frame.x(stretch.endFrame))
  if (right <= left) return null
  return (
    <rect
      x={left}
      y={LEVEL_Y - LEVEL_HALF - 2}
      width={right - left}
      height={2 * LEVEL_HALF + 4}
      rx={8}
      fill="none"
      stroke="var(--chakra-colors-ink-soft)"
      strokeOpacity={0.7}
      strokeDasharray="3 3"
    />
  )
}

const Handle = chakra('button', {
  base: {
    position: 'absolute',
    width: '24px',
    height: '24px',
    ml: '-12px',
    mt: '-12px',
    borderRadius: 'full',
    cursor: 'ew-resize',
    touchAction: 'none',
    _before: { content: '""', position: 'absolute', inset: '7px', borderRadius: 'full', bg: 'card', borderWidth: '2px', borderColor: 'brand' },
  },
})

const KEY_STEP_FRAMES = 480

export function FadeHandles({ layerId, gain, frame }: { layerId: LayerId; gain: GainInSong; frame: Frame }) {
  const [tried, setTried] = useState<number | null>(null)
  const { startFrame, endFrame, gainDecibels } = gain
  const half = Math.floor((endFrame - startFrame) / 2)
  const fadeFrames = Math.min(tried ?? gain.fadeFrames, half)
  const clamped = (frames: number) => Math.round(Math.max(FADE_RANGE_FRAMES.min, Math.min(FADE_RANGE_FRAMES.max, half, frames)))
  const stretch = { startFrame, endFrame }
  const label = (frames: number) => `faded over ${Math.round((1_000 * frames) / SAMPLE_RATE_HZ)} ms`
  const keep = (frames: number) => layGain(layerId, label(frames), { stretch, gainDecibels, fadeFrames: frames })
  const onPointerDown = (event: PointerEvent<HTMLButtonElement>, by: 1 | -1) => {
    const handle = event.currentTarget
    const startX = event.clientX
    let last: number | null = null
    handle.setPointerCapture(event.pointerId)
    const onMove = (move: globalThis.PointerEvent) => {
      last = clamped(gain.fadeFrames + by * (frame.at(move.clientX) - frame.at(startX)))
      setTried(last)
      const frames = last
      tryOut(song => setGainInStretch(song, { layerId, stretch, gainDecibels, fadeFrames: frames, makeId }))
    }
    const finish = (kept: boolean) => {
      handle.removeEventListener('pointermove', onMove)
      handle.removeEventListener('pointerup', onUp)
      handle.removeEventListener('pointercancel', onCancel)
      setTried(null)
      if (last === null) return
      if (kept) keep(last)
      else tryOut(null)
    }
    const onUp = () => finish(true)
    const onCancel = () => finish(false)
    handle.addEventListener('pointermove', onMove)
    handle.addEventListener('pointerup', onUp)
    handle.addEventListener('pointercancel', onCancel)
  }
  const onKeyDown = (event: KeyboardEvent, by: 1 | -1) => {
    if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
    event.preventDefault()
    event.stopPropagation()
    keep(clamped(gain.fadeFrames + by * (event.key === 'ArrowRight' ? KEY_STEP_FRAMES : -KEY_STEP_FRAMES)))
  }
  const top = Math.min(HEIGHT, levelY(gainDecibels))
  return (
    <>
      {([1, -1] as const).map(by => {
        const at = by > 0 ? startFrame + fadeFrames : endFrame - fadeFrames
        const x = frame.x(at)
        if (x < LEFT || x > frame.right) return null
        return (
          <Handle
            key={by}
            type="button"
            aria-label={`Fade ${by > 0 ? 'in' : 'out'}, ${label(fadeFrames)}`}
            title="Drag it, or move it with ← →"
            style={{ left: x, top }}
            onPointerDown={event => onPointerDown(event, by)}
            onKeyDown={event => onKeyDown(event, by)}
          />
        )
      })}
    </>
  )
}
