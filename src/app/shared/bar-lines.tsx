/** Bars as hairlines with their numbers, beats fainter. */
import { Box } from '@chakra-ui/react'
import { memo, type CSSProperties } from 'react'
import { barAtFrame, frameOfBar, frameOfBeat, type Grid } from '../../core/beat/grid'
import type { FrameRange } from '../../core/song/select'
import { onTape, Tape, useLiveView } from './time-view'

/** At most this many numbers are shown; then every second, fourth … bar. */
const MAX_NUMBERS = 24

/** Of all lines in one rule: to style each by itself takes longer than to draw it. */
const LINE_STYLES = {
  '& span': {
    position: 'absolute',
    top: 'var(--bar-lines-top)',
    bottom: 0,
    borderLeftWidth: '1px',
    borderColor: 'seamline',
    paddingLeft: '3px',
    marginTop: '-2px',
    fontSize: '11px',
    color: 'ink.soft',
    whiteSpace: 'nowrap',
  },
  '& span[data-beat]': { opacity: 0.45 },
}

/** Memoised: there are many of them. @param beyond Bars are laid this many times the stretch to both sides, for when it is moved. */
export const BarLines = memo(function BarLines({ grid, view, top = '0', beyond = 0 }: { grid: Grid; view: FrameRange; top?: string; beyond?: number }) {
  const live = useLiveView()
  const length = view.endFrame - view.startFrame
  const wide = { startFrame: view.startFrame - beyond * length, endFrame: view.endFrame + beyond * length }
  const shown = barAtFrame(grid, view.endFrame) - barAtFrame(grid, view.startFrame)
  const first = barAtFrame(grid, wide.startFrame)
  const last = barAtFrame(grid, wide.endFrame)
  let every = 1
  while (shown / every > MAX_NUMBERS) every *= 2
  const lines = []
  for (let bar = first; bar <= last; bar++) {
    if ((bar - 1) % every !== 0) continue
    lines.push({ frame: frameOfBar(grid, bar), number: bar })
    if (shown > 12) continue
    for (let beat = 1; beat < grid.beatsPerBar; beat++) lines.push({ frame: frameOfBeat(grid, (bar - 1) * grid.beatsPerBar + beat), number: null })
  }
  const drawn = lines
    .filter(line => line.frame >= wide.startFrame && line.frame <= wide.endFrame)
    .map(line => (
      <span
        key={line.frame}
        data-beat={line.number === null || undefined}
        style={live ? onTape(line.frame) : { left: `${((line.frame - view.startFrame) / length) * 100}%` }}
      >
        {line.number}
      </span>
    ))
  return (
    <Box aria-hidden position="absolute" inset={0} pointerEvents="none" overflow="hidden" css={LINE_STYLES} style={{ '--bar-lines-top': top } as CSSProperties}>
      {live ? <Tape>{drawn}</Tape> : drawn}
    </Box>
  )
})
