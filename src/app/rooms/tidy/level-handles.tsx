/** On the level under the notes: a stretch is drawn freely, and the fades of a gain are moved by their handles. */
import { Box, chakra } from '@chakra-ui/react'
import { useMemo, useRef, type KeyboardEvent, type PointerEvent } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { setGainInStretch, type GainInSong } from '../../../core/edits/stretch-level'
import { FADE_RANGE_FRAMES } from '../../../core/song/edit-schema'
import type { LayerId } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { useTrial } from '../../shared/use-trial'
import { tryOut } from '../../song/song-store'
import { LEFT, LEVEL_HALF, LEVEL_Y, levelY, RIGHT, type Frame } from './ladder-frame'
import { layGain } from './tidying'
import { useTidy } from './tidy-store'

/** A shorter pull is a slip of the hand. */
const LEAST_PIXELS = 6
const LEAST_FRAMES = 2_400

/** Drawing over the level makes the stretch that is drawn the one whose level and time are typed. */
export function LevelSurface({ frame }: { frame: Frame }) {
  const from = useRef<number | null>(null)
  const leave = () => (from.current = null)
  const onPointerMove = (event: PointerEvent<HTMLDivElement>) => {
    if (from.current === null || Math.abs(event.clientX - from.current) < LEAST_PIXELS) return
    const { left } = event.currentTarget.parentElement!.getBoundingClientRect()
    const places = [from.current, event.clientX].map(x => Math.round(frame.at(x - left)))
    const [startFrame, endFrame] = [Math.min(...places), Math.max(...places)]
    if (endFrame - startFrame >= LEAST_FRAMES) useTidy.setState({ reach: 'free', free: { startFrame, endFrame } })
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
      onPointerDown={event => {
        event.currentTarget.setPointerCapture(event.pointerId)
        from.current = event.clientX
      }}
      onPointerMove={onPointerMove}
      onPointerUp={leave}
      onPointerCancel={leave}
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
  const { startFrame, endFrame, gainDecibels } = gain
  const half = Math.floor((endFrame - startFrame) / 2)
  const clamped = (frames: number) => Math.round(Math.max(FADE_RANGE_FRAMES.min, Math.min(FADE_RANGE_FRAMES.max, half, frames)))
  const actions = useMemo(() => {
    const laid = (fadeFrames: number) => ({ stretch: { startFrame, endFrame }, gainDecibels, fadeFrames })
    return {
      try: (frames: number) => tryOut(song => setGainInStretch(song, { layerId, ...laid(frames), makeId })),
      keep: (frames: number) => layGain(layerId, fadeText(frames), laid(frames)),
      drop: () => tryOut(null),
    }
  }, [layerId, startFrame, endFrame, gainDecibels])
  const trial = useTrial(gain.fadeFrames, actions)
  const fadeFrames = Math.min(trial.value, half)
  // Where the pull began: what is tried is in the song that is shown, too.
  const pulled = useRef<{ x: number; fadeFrames: number } | null>(null)
  const endWith = (end: () => void) => () => {
    pulled.current = null
    end()
  }
  const onPointerMove = (event: PointerEvent, by: 1 | -1) => {
    if (pulled.current) trial.try(clamped(pulled.current.fadeFrames + by * (frame.at(event.clientX) - frame.at(pulled.current.x))))
  }
  const onKeyDown = (event: KeyboardEvent, by: 1 | -1) => {
    if (event.key === 'Escape' && pulled.current) endWith(trial.drop)()
    else if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') {
      actions.keep(clamped(fadeFrames + by * (event.key === 'ArrowRight' ? KEY_STEP_FRAMES : -KEY_STEP_FRAMES)))
      event.preventDefault()
    } else return
    event.stopPropagation()
  }
  return (
    <>
      {([1, -1] as const).map(by => {
        const x = frame.x(by > 0 ? startFrame + fadeFrames : endFrame - fadeFrames)
        if (x < LEFT || x > frame.right) return null
        return (
          <Handle
            key={by}
            type="button"
            aria-label={`Fade ${by > 0 ? 'in' : 'out'}, ${fadeText(fadeFrames)}`}
            title="Drag it, or move it with ← →"
            style={{ left: x, top: levelY(gainDecibels) }}
            onPointerDown={event => {
              event.currentTarget.setPointerCapture(event.pointerId)
              pulled.current = { x: event.clientX, fadeFrames }
            }}
            onPointerMove={event => onPointerMove(event, by)}
            onPointerUp={endWith(trial.keep)}
            onPointerCancel={endWith(trial.drop)}
            onKeyDown={event => onKeyDown(event, by)}
          />
        )
      })}
    </>
  )
}

function fadeText(frames: number): string {
  return `faded over ${Math.round((1_000 * frames) / SAMPLE_RATE_HZ)} ms`
}
