/** Bars as hairlines with their numbers, beats fainter. */
import { Box } from '@chakra-ui/react'
import { barAtFrame, frameOfBar, frameOfBeat, type Grid } from '../../core/beat/grid'
import type { FrameRange } from '../../core/song/select'

/** At most this many numbers are shown; then every second, fourth … bar. */
const MAX_NUMBERS = 24

export function BarLines({ grid, view, top = '0' }: { grid: Grid; view: FrameRange; top?: string }) {
  const length = view.endFrame - view.startFrame
  const first = barAtFrame(grid, view.startFrame)
  const last = barAtFrame(grid, view.endFrame)
  let every = 1
  while ((last - first) / every > MAX_NUMBERS) every *= 2
  const lines = []
  for (let bar = first; bar <= last; bar++) {
    if ((bar - 1) % every !== 0) continue
    lines.push({ frame: frameOfBar(grid, bar), number: bar })
    if (last - first > 12) continue
    for (let beat = 1; beat < grid.beatsPerBar; beat++) lines.push({ frame: frameOfBeat(grid, (bar - 1) * grid.beatsPerBar + beat), number: null })
  }
  return (
    <Box aria-hidden position="absolute" inset={0} pointerEvents="none" overflow="hidden">
      {lines
        .filter(line => line.frame >= view.startFrame && line.frame <= view.endFrame)
        .map(line => (
          <Box key={line.frame} position="absolute" top={top} bottom={0} style={{ left: `${((line.frame - view.startFrame) / length) * 100}%` }} borderLeftWidth="1px" borderColor="seamline" opacity={line.number === null ? 0.45 : 1}>
            {line.number === null ? null : (
              <Box as="span" position="absolute" top="-2px" left="4px" fontSize="11px" color="ink.soft" whiteSpace="nowrap">
                {line.number}
              </Box>
            )}
          </Box>
        ))}
    </Box>
  )
}
