/** The words, large: this line, the one before, the next, and how long until it begins. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useCallback, useRef, useState } from 'react'
import { barAtFrame, beatAtFrame } from '../../../core/beat/grid'
import { lineTitle, placedLines } from '../../../core/song/select'
import { TRANSPORT } from '../../../engine/shared-state'
import { Card } from '../../shared/parts'
import { useFrameLoop } from '../../shared/use-frame-loop'
import { playheadFrame, useLive } from '../../song/live'
import { currentSong, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { useRecorder } from './recorder-store'

export function WordsStage() {
  const song = useSong(current => current)
  const playing = useLive(state => state.playing)
  const cursor = useView(state => state.cursorFrame)
  const { phase, range } = useRecorder()
  const lines = placedLines(song)
  const [heardIndex, setHeardIndex] = useState(-1)
  const countdown = useRef<HTMLSpanElement>(null)
  const pass = useRef<HTMLSpanElement>(null)
  const draw = useCallback(() => {
    if (!useLive.getState().playing) return
    const current = currentSong()
    const { grid } = current.beat
    const frame = playheadFrame()
    const all = placedLines(current)
    // A line is shown from half a beat before it begins.
    const index = all.findLastIndex(line => frame >= line.startFrame - 12_000)
    setHeardIndex(index)
    const next = all.find(line => line.startFrame > frame)
    if (countdown.current) countdown.current.textContent = next ? String(Math.ceil(beatAtFrame(grid, next.startFrame) - beatAtFrame(grid, frame))) : '–'
    const { range: recorded } = useRecorder.getState()
    if (pass.current && recorded) {
      const { engine } = useLive.getState()
      const unwrapped = engine ? engine.context.currentTime * 48_000 - engine.transport[TRANSPORT.anchorContextFrame]! + engine.transport[TRANSPORT.anchorSongFrame]! : 0
      const turn = Math.max(0, Math.floor((unwrapped - recorded.startFrame) / (recorded.endFrame - recorded.startFrame)))
      pass.current.textContent = frame < recorded.startFrame && turn === 0 ? 'Counting in' : `Pass ${turn + 1}`
    }
  }, [])
  useFrameLoop(draw)
  const restingIndex = lines.findIndex(line => cursor < line.endFrame)
  const index = playing ? heardIndex : restingIndex
  const shown = (i: number) => (lines[i] ? lineTitle(lines[i]) : '')
  const section = lines[Math.max(0, index)]?.section
  const bar = barAtFrame(song.beat.grid, cursor)
  return (
    <Card display="flex" flexDirection="column" p="20px 30px" outline={phase === 'rolling' ? '2px solid' : undefined} outlineColor="record">
      <Flex justify="space-between" color="ink.soft">
        <Box>{section?.name ?? `bar ${bar}`}</Box>
        <Box role="status" color={phase === 'rolling' ? 'record' : 'ink.soft'} fontWeight={phase === 'rolling' ? 700 : 400} fontSize={phase === 'rolling' ? '20px' : undefined}>
          {phase === 'rolling' && range ? <span ref={pass}>Recording</span> : null}
        </Box>
      </Flex>
      <Flex direction="column" justify="center" flex="1" fontFamily="heading" gap={1} minH="180px">
        {lines.length === 0 ? (
          <Text fontSize="24px" color="ink.soft">
            No lines yet. Put the words on the sheet, or sing without: the selection is what is recorded.
          </Text>
        ) : (
          <>
            <Box fontSize="24px" color="ink.soft" minH="36px">{shown(index - 1)}</Box>
            <Box fontSize="44px" fontWeight={600} lineHeight={1.15} minH="52px">{shown(index) || '…'}</Box>
            <Box fontSize="24px" color="ink.soft" minH="36px">{shown(index + 1)}</Box>
          </>
        )}
      </Flex>
      <Box color="ink.soft" visibility={playing ? 'visible' : 'hidden'}>
        next line in{' '}
        <Box as="span" ref={countdown} fontSize="20px" fontWeight={700} color="ink" mx={1} />
        beats
      </Box>
    </Card>
  )
}
