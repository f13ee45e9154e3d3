/** The lead's syllables and another voice's under them, joined by threads that lean where it is late or early. */
import { Box } from '@chakra-ui/react'
import { useRef } from 'react'
import { endsOf, type LedLine } from '../../../core/align/led-paths'
import { shareAt } from '../../../core/align/times'
import type { Layer } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import type { LedPath, Together } from '../../../core/song/together-schema'
import { useWidth } from '../../shared/use-width'
import { useSong } from '../../song/song-store'
import { ROLE_LOOKS, useRoleColour } from '../../theme/roles'

const HEIGHT = 46
const LEAD_Y = 10
const OWN_Y = HEIGHT - 10
const BESIDE_FRAMES = 9_600
/** In pixels: what leans less is together. */
const UPRIGHT_PIXELS = 1.5

export function Threads({
  range,
  lines,
  paths,
  layer,
  together,
}: {
  range: FrameRange
  lines: readonly LedLine[]
  paths: readonly LedPath[]
  layer: Layer
  together: Together
}) {
  const takes = useSong(song => song.takes)
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const [lead, own] = [useRoleColour('lead'), useRoleColour(layer.tint)]
  const from = range.startFrame - BESIDE_FRAMES
  const x = (frame: number) => ((frame - from) / (range.endFrame + BESIDE_FRAMES - from)) * width
  const places = paths.flatMap(path => {
    const line = lines.find(entry => entry.takeId === path.takeId && entry.lineId === path.lineId)
    const take = line && takes.find(({ id }) => id === path.takeId)
    if (!take) return []
    const ends = endsOf(layer, take)
    return path.places.map(([frame, later]) => {
      const sung = frame + line.originFrame
      return { sung, led: sung + later, now: sung + shareAt(frame, together.tightness, ends) * later }
    })
  })
  return (
    <Box ref={box} height={`${HEIGHT}px`} bg="sunken" borderRadius="8px" overflow="hidden" mt={1} aria-hidden>
      {width > 0 ? (
        <svg width={width} height={HEIGHT}>
          <line x1={0} x2={width} y1={LEAD_Y} y2={LEAD_Y} stroke={lead} strokeWidth={2} />
          <line x1={0} x2={width} y1={OWN_Y} y2={OWN_Y} stroke={own} strokeWidth={2} strokeDasharray={ROLE_LOOKS[layer.tint].dashes.join(' ')} />
          {places.map(({ sung, led, now }) => {
            const leans = Math.abs(x(now) - x(led)) > UPRIGHT_PIXELS
            return (
              <g key={sung}>
                <line x1={x(led)} x2={x(sung)} y1={LEAD_Y} y2={OWN_Y} stroke={own} strokeWidth={1} strokeOpacity={0.35} strokeDasharray="2 3" />
                <line x1={x(led)} x2={x(now)} y1={LEAD_Y} y2={OWN_Y} stroke={own} strokeWidth={leans ? 2 : 1.4} />
                <circle cx={x(led)} cy={LEAD_Y} r={3} fill={lead} />
                <circle cx={x(now)} cy={OWN_Y} r={3} fill={own} />
              </g>
            )
          })}
        </svg>
      ) : null}
    </Box>
  )
}
