/** The lead's syllables and another voice's under them, joined by threads that lean where it is late or early; each can be set by hand. */
import { Box } from '@chakra-ui/react'
import { useRef, useState } from 'react'
import { timesOfTake, type LedLine } from '../../../core/align/led-paths'
import type { Layer, Song, TakeId } from '../../../core/song/schema'
import { requireTake, type FrameRange } from '../../../core/song/select'
import type { LedPath } from '../../../core/song/together-schema'
import { soundingAt, timeMapOf } from '../../../core/tune/time-map'
import { useWidth } from '../../shared/use-width'
import { useSong } from '../../song/song-store'
import { ROLE_LOOKS, useRoleColour } from '../../theme/roles'
import { ThreadByHand } from './thread-by-hand'

const HEIGHT = 46
const LEAD_Y = 10
const OWN_Y = HEIGHT - 10
const BESIDE_FRAMES = 9_600
/** In pixels: what leans less is together; and a click so near to a thread is on it. */
const UPRIGHT_PIXELS = 1.5
const NEAR_PIXELS = 24

/** Where a syllable lies, in frames of the song. */
export interface Thread {
  takeId: TakeId
  /** Of the take's asset. */
  frame: number
  sung: number
  /** Where the lead has it. */
  led: number
  /** Where it sounds, with all that moves it. */
  now: number
}

function threadsOf(song: Song, layer: Layer, lines: readonly LedLine[], paths: readonly LedPath[]): Thread[] {
  return paths
    .flatMap(path => {
      const line = lines.find(entry => entry.takeId === path.takeId && entry.lineId === path.lineId)
      if (!line || !song.takes.some(({ id }) => id === path.takeId)) return []
      const map = timeMapOf(timesOfTake(song, layer, requireTake(song, path.takeId)))
      return path.places.map(([frame, later]) => {
        const sung = frame + line.originFrame
        return { takeId: path.takeId, frame, sung, led: sung + later, now: line.originFrame + soundingAt(map, frame) }
      })
    })
    .sort((a, b) => a.sung - b.sung)
}

interface ThreadsProps {
  range: FrameRange
  /** Of the line, as it is called. */
  title: string
  lines: readonly LedLine[]
  paths: readonly LedPath[]
  layer: Layer
}

export function Threads({ range, title, lines, paths, layer }: ThreadsProps) {
  const song = useSong(current => current)
  const [asked, setChosen] = useState(0)
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const [lead, own] = [useRoleColour('lead'), useRoleColour(layer.tint)]
  const from = range.startFrame - BESIDE_FRAMES
  const x = (frame: number) => ((frame - from) / (range.endFrame + BESIDE_FRAMES - from)) * width
  const threads = threadsOf(song, layer, lines, paths)
  const chosen = Math.max(0, Math.min(threads.length - 1, asked))
  const choose = (at: number) => {
    const off = threads.map(({ led, now }) => Math.min(Math.abs(x(led) - at), Math.abs(x(now) - at)))
    const nearest = off.indexOf(Math.min(...off))
    if (off[nearest]! < NEAR_PIXELS) setChosen(nearest)
  }
  return (
    <>
      <Box
        ref={box}
        height={`${HEIGHT}px`}
        bg="sunken"
        borderRadius="8px"
        overflow="hidden"
        mt={1}
        aria-hidden
        cursor="pointer"
        onClick={event => choose(event.clientX - event.currentTarget.getBoundingClientRect().left)}
      >
        {width > 0 ? (
          <svg width={width} height={HEIGHT}>
            <line x1={0} x2={width} y1={LEAD_Y} y2={LEAD_Y} stroke={lead} strokeWidth={2} />
            <line x1={0} x2={width} y1={OWN_Y} y2={OWN_Y} stroke={own} strokeWidth={2} strokeDasharray={ROLE_LOOKS[layer.tint].dashes.join(' ')} />
            {threads.map(({ sung, led, now }, i) => {
              const leans = Math.abs(x(now) - x(led)) > UPRIGHT_PIXELS
              return (
                <g key={sung}>
                  <line x1={x(led)} x2={x(sung)} y1={LEAD_Y} y2={OWN_Y} stroke={own} strokeWidth={1} strokeOpacity={0.35} strokeDasharray="2 3" />
                  <line x1={x(led)} x2={x(now)} y1={LEAD_Y} y2={OWN_Y} stroke={own} strokeWidth={leans ? 2 : 1.4} />
                  <circle cx={x(led)} cy={LEAD_Y} r={3} fill={lead} />
                  <circle cx={x(now)} cy={OWN_Y} r={i === chosen ? 5 : 3} fill={own} />
                </g>
              )
            })}
          </svg>
        ) : null}
      </Box>
      {threads.length > 0 ? <ThreadByHand title={title} thread={threads[chosen]!} at={chosen} of={threads.length} onStep={setChosen} /> : null}
    </>
  )
}
