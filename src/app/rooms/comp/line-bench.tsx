/** The takes of a line under each other at one time scale, with the thread running through what is picked. */
import { Box, chakra, Flex } from '@chakra-ui/react'
import { Star } from 'lucide-react'
import { useMemo } from 'react'
import type { Layer, Take } from '../../../core/song/schema'
import { currentComp, overlapFrames, type FrameRange, type PlacedLine } from '../../../core/song/select'
import { placeWords } from '../../../core/song/words'
import { BarLines } from '../../shared/bar-lines'
import { formatMilliseconds } from '../../shared/format'
import { Playhead } from '../../shared/playhead'
import { Ribbon } from '../../shared/ribbon'
import { useSong } from '../../song/song-store'
import { usePeaks } from '../../song/sounds'
import { Thread } from './thread'
import type { Comping } from './use-comping'

const LABEL_WIDTH = 132
export const ROW_HEIGHT = 78
const HEAD_HEIGHT = 46

export function LineBench({ line, layer, view, comping }: { line: PlacedLine; layer: Layer; view: FrameRange; comping: Comping }) {
  const grid = useSong(song => song.beat.grid)
  const picks = currentComp(layer).picks
  const fraction = (frame: number) => (frame - view.startFrame) / (view.endFrame - view.startFrame)
  return (
    <Box position="relative" role="group" aria-label="Takes of this line">
      <Box position="absolute" top={0} bottom={0} left={`${LABEL_WIDTH}px`} right="14px">
        <BarLines grid={grid} view={view} top="8px" />
        {placeWords(line).map(({ word, startFrame }, i) => (
          <Box key={i} aria-hidden position="absolute" top="24px" style={{ left: `${fraction(startFrame) * 100}%` }} fontFamily="heading" fontWeight={600} fontSize="14px" whiteSpace="nowrap">
            {word}
          </Box>
        ))}
        <Playhead view={view} />
      </Box>
      <Box height={`${HEAD_HEIGHT}px`} />
      <Box position="relative">
        {comping.takes.map(take => (
          <TakeStrip key={take.id} take={take} layer={layer} view={view} comping={comping} />
        ))}
        <Box position="absolute" inset={`0 14px 0 ${LABEL_WIDTH}px`} pointerEvents="none">
          <Thread layer={layer} picks={picks} takeIds={comping.takes.map(take => take.id)} view={view} rowHeight={ROW_HEIGHT} />
        </Box>
      </Box>
    </Box>
  )
}

const StripButton = chakra('button', { base: { display: 'flex', width: '100%', height: `${ROW_HEIGHT}px`, alignItems: 'center', textAlign: 'left', cursor: 'pointer', position: 'relative', _disabled: { cursor: 'not-allowed' }, _focusVisible: { outlineOffset: '-3px' } } })

function TakeStrip({ take, layer, view, comping }: { take: Take; layer: Layer; view: FrameRange; comping: Comping }) {
  const peaks = usePeaks(take.assetId)
  const usedBy = comping.usedBy(take.id)
  const picked = comping.picked?.id === take.id
  const focused = comping.focused?.id === take.id
  const bright = useMemo(() => currentComp(layer).picks.filter(pick => pick.takeId === take.id && overlapFrames(pick, view) > 0), [layer, take.id, view])
  const sung = useMemo<FrameRange[]>(() => [{ startFrame: take.startFrame, endFrame: take.endFrame }], [take])
  const state = usedBy.length > 0 ? `used by ${usedBy.join(', ')}` : picked ? 'picked' : `moved ${formatMilliseconds(take.roundTripFrames)}`
  return (
    <StripButton
      aria-pressed={picked}
      aria-label={`${take.name}${take.starred ? ', starred' : ''}: ${state}${picked ? '' : usedBy.length > 0 ? '' : '. Pick it'}`}
      data-focused={focused || undefined}
      bg={focused ? 'card' : 'transparent'}
      disabled={usedBy.length > 0}
      onClick={() => void comping.pick(take.id)}
      onFocus={() => comping.focus(take.id)}
    >
      {focused ? <Box aria-hidden position="absolute" inset="3px 6px" borderWidth="1px" borderStyle="dashed" borderColor="brand" borderRadius="10px" pointerEvents="none" opacity={0.7} /> : null}
      <Box flex={`0 0 ${LABEL_WIDTH}px`} pl={4} pr={2}>
        <Flex align="center" gap={1} fontWeight={600}>
          {take.name} {take.starred ? <Star size={13} fill="currentColor" aria-hidden /> : null}
        </Flex>
        <Box color="ink.soft" fontSize="12px" truncate>
          {state}
        </Box>
      </Box>
      <Ribbon
        peaks={peaks}
        originFrame={take.originFrame}
        view={view}
        bright={picked || bright.length > 0 ? bright : sung}
        look={picked || bright.length > 0 ? layer.tint : 'spare'}
        label={`${take.name} as a ribbon`}
        flex="1 1 auto"
        height="64px"
        mr="14px"
      />
    </StripButton>
  )
}
