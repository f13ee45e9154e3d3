/** Seams as round handles on the thread: dragged, or moved by the arrow keys; heard while they move. */
import { chakra } from '@chakra-ui/react'
import { memo, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { Layer, TakeId } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { formatClock } from '../../shared/format'
import { onTape, Tape, useLiveView } from '../../shared/time-view'
import { playStretch, stopPlaying, useLive } from '../../song/live'
import { currentSong, tryOut, useSong } from '../../song/song-store'
import { setBench, useBench } from './bench-store'
import { keepSeam, quietPlacesIn, seamsIn, trySeam, type SeamPlace } from './comping'

const Handle = chakra('button', {
  base: {
    position: 'absolute',
    pointerEvents: 'auto',
    width: '24px',
    height: '24px',
    ml: '-12px',
    mt: '-12px',
    borderRadius: 'full',
    cursor: 'ew-resize',
    touchAction: 'none',
    zIndex: 2,
    _before: { content: '""', position: 'absolute', inset: '4px', borderRadius: 'full', bg: 'card', borderWidth: '2.5px', borderColor: 'brand' },
    _pressed: { _before: { bg: 'brand' } },
  },
})

/** A quiet place so near to the pointer takes the seam, unless Alt is held. */
const SNAP_PIXELS = 9
const KEY_STEP_FRAMES = 480
const FINE_STEP_FRAMES = 48
/** Played round a seam that is moved. */
const AROUND_FRAMES = 24_000

export const SeamHandles = memo(function SeamHandles({ layer, yOf, view }: { layer: Layer; yOf: (takeId: TakeId) => number | null; view: FrameRange }) {
  // Seams are where the song has them, or where they are tried.
  const song = useSong(current => current)
  const chosen = useBench(state => state.seam)
  const length = view.endFrame - view.startFrame
  const seams = seamsIn(song, layer.id, { startFrame: view.startFrame - length, endFrame: view.endFrame + length })
  return (
    <Tape>
      {seams.map(place => {
        const rows = [place.before, place.after].flatMap(pick => (pick ? (yOf(pick.takeId) ?? []) : []))
        if (rows.length === 0) return null
        return (
          <SeamHandle
            key={`${place.id.pickId}-${place.id.edge}`}
            place={place}
            layer={layer}
            view={view}
            top={rows.reduce((sum, y) => sum + y, 0) / rows.length}
            chosen={chosen?.pickId === place.id.pickId && chosen.edge === place.id.edge}
          />
        )
      })}
    </Tape>
  )
})

function SeamHandle({ place, layer, view, top, chosen }: { place: SeamPlace; layer: Layer; view: FrameRange; top: number; chosen: boolean }) {
  const [tried, setTried] = useState<number | null>(null)
  const live = useLiveView()
  const frame = tried ?? place.frame
  const choose = () => setBench({ seam: place.id })
  const onPointerDown = (event: PointerEvent<HTMLButtonElement>) => {
    const handle = event.currentTarget
    // The tape's parent is as wide as the stretch that is looked at.
    const { width } = handle.parentElement!.parentElement!.getBoundingClientRect()
    const now = live?.now ?? view
    const framesPerPixel = (now.endFrame - now.startFrame) / width
    const places = quietPlacesIn(currentSong(), layer.id, null, now)
    const startX = event.clientX
    const wasPlaying = useLive.getState().playing
    let last: number | null = null
    handle.setPointerCapture(event.pointerId)
    choose()
    const onMove = (move: globalThis.PointerEvent) => {
      if (last === null && Math.abs(move.clientX - startX) < 3) return
      const free = place.frame + (move.clientX - startX) * framesPerPixel
      const near = move.altKey ? undefined : places.find(entry => Math.abs(entry.frame - free) < SNAP_PIXELS * framesPerPixel)
      if (last === null) void playStretch({ startFrame: place.frame - AROUND_FRAMES, endFrame: place.frame + AROUND_FRAMES }, true)
      last = Math.round(near?.frame ?? free)
      setTried(last)
      trySeam(layer.id, place.id, last)
    }
    const finish = (kept: boolean) => {
      handle.removeEventListener('pointermove', onMove)
      handle.removeEventListener('pointerup', onUp)
      handle.removeEventListener('pointercancel', onCancel)
      if (last === null) return
      if (!wasPlaying) stopPlaying()
      if (kept) void keepSeam(layer.id, place.id, last).then(() => setTried(null))
      else {
        tryOut(null)
        setTried(null)
      }
    }
    const onUp = () => finish(true)
    const onCancel = () => finish(false)
    handle.addEventListener('pointermove', onMove)
    handle.addEventListener('pointerup', onUp)
    handle.addEventListener('pointercancel', onCancel)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
    event.preventDefault()
    event.stopPropagation()
    const step = (event.altKey ? FINE_STEP_FRAMES : KEY_STEP_FRAMES) * (event.key === 'ArrowLeft' ? -1 : 1)
    void keepSeam(layer.id, place.id, place.frame + step)
  }
  return (
    <Handle
      aria-label={seamName(place)}
      aria-pressed={chosen}
      title={`${seamName(place)}. Drag it, or move it with ← →; Alt is free and fine.`}
      style={{ ...onTape(frame), top: `${top}px` }}
      onClick={choose}
      onFocus={choose}
      onPointerDown={onPointerDown}
      onKeyDown={onKeyDown}
    />
  )
}

function seamName({ before, after, frame }: SeamPlace): string {
  const takeName = (id: TakeId) => currentSong().takes.find(take => take.id === id)?.name ?? ''
  const at = formatClock(frame)
  if (!before) return `${takeName(after!.takeId)} begins at ${at}`
  if (!after) return `${takeName(before.takeId)} ends at ${at}`
  return before.takeId === after.takeId
    ? `Cut in ${takeName(after.takeId)} at ${at}`
    : `Seam from ${takeName(before.takeId)} to ${takeName(after.takeId)} at ${at}`
}
