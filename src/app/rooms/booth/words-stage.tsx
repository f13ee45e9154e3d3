/** The words, large: this line, the one before, the next, and how long until it begins. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useCallback, useRef, useState } from 'react'
import { barAtFrame, beatAtFrame, type Grid } from '../../../core/beat/grid'
import type { PassMark } from '../../../core/song/recording'
import { lineTitle, placedLines, sectionRange } from '../../../core/song/select'
import { count } from '../../shared/format'
import { Card, KeyCap, Pill } from '../../shared/parts'
import { say, useFrameLoop } from '../../shared/use-frame-loop'
import { playheadFrame, useLive } from '../../song/live'
import { currentSong, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { setBooth, useBoothSettings } from '../../recording/booth-settings'
import { finishedPasses, markLastPass } from '../../recording/recorder'
import { useRecorder } from '../../recording/recorder-store'

export function WordsStage() {
  const song = useSong(current => current)
  const playing = useLive(state => state.playing)
  const cursor = useView(state => state.cursorFrame)
  const { phase, range } = useRecorder()
  const lines = placedLines(song)
  const [playedIndex, setPlayedIndex] = useState(-1)
  const nextLine = useRef<HTMLSpanElement>(null)
  const countdown = useRef<HTMLSpanElement>(null)
  const pass = useRef<HTMLSpanElement>(null)
  const bars = useRef<HTMLSpanElement>(null)
  const bar = useRef<HTMLDivElement>(null)
  const wordsSize = useBoothSettings(state => state.wordsSize)
  const draw = useCallback(() => {
    if (!useLive.getState().playing) return
    const current = currentSong()
    const { grid } = current.beat
    const frame = playheadFrame()
    const all = placedLines(current)
    const { range: recorded } = useRecorder.getState()
    // Before what is recorded begins, its first line is in view; after that a line is shown from half a beat before it begins.
    const asked = recorded && frame < recorded.startFrame ? all.findIndex(line => line.startFrame >= recorded.startFrame - 12_000) : -1
    const index = asked >= 0 ? asked : all.findLastIndex(line => frame >= line.startFrame - 12_000)
    setPlayedIndex(index)
    const next = all.find(line => line.startFrame > frame)
    if (nextLine.current) nextLine.current.hidden = !next
    if (next) say(countdown.current, String(Math.ceil(beatAtFrame(grid, next.startFrame) - beatAtFrame(grid, frame))))
    say(bar.current, barName(grid, frame))
    if (bars.current) {
      const section = all[Math.max(0, index)]?.section ?? current.sections.find(entry => frame < sectionRange(current, entry).endFrame)
      const left = section ? barAtFrame(grid, sectionRange(current, section).endFrame) - barAtFrame(grid, frame) : 0
      say(bars.current, left > 0 ? `${count(left, 'bar')} left in ${section!.name}` : barName(grid, frame))
    }
    if (pass.current && recorded) {
      const turn = finishedPasses()
      say(pass.current, frame < recorded.startFrame && turn === 0 ? 'Counting in' : `Pass ${turn + 1}`)
    }
  }, [])
  useFrameLoop(draw)
  const cursorIndex = lines.findIndex(line => cursor < line.endFrame)
  const index = playing ? playedIndex : cursorIndex
  const shown = (i: number) => (lines[i] ? lineTitle(lines[i]) : '')
  const section = lines[Math.max(0, index)]?.section
  return (
    <Card display="flex" flexDirection="column" p="20px 30px" outline={phase === 'rolling' ? '2px solid' : undefined} outlineColor="record">
      <Flex justify="space-between" color="ink.soft">
        <Box>{section?.name ?? barName(song.beat.grid, cursor)}</Box>
        <Box
          role="status"
          color={phase === 'rolling' ? 'record' : 'ink.soft'}
          fontWeight={phase === 'rolling' ? 700 : 400}
          fontSize={phase === 'rolling' ? '34px' : undefined}
          fontFamily={phase === 'rolling' ? 'heading' : undefined}
          lineHeight={1.1}
        >
          {phase === 'rolling' && range ? <span ref={pass}>Recording</span> : phase === 'waiting' ? 'Waiting for your voice' : null}
        </Box>
      </Flex>
      <Flex direction="column" justify="center" flex="1" fontFamily="heading" gap={1} minH="180px">
        {lines.length === 0 && playing ? (
          <Box ref={bar} fontSize={`${wordsSize}px`} fontWeight={600} />
        ) : lines.length === 0 ? (
          <Text fontSize="24px" color="ink.soft">
            No lines yet. Put the words on the sheet, or sing without: the selection is what is recorded.
          </Text>
        ) : (
          <>
            <Box fontSize={`${wordsSize * 0.55}px`} color="ink.soft" minH="1.4em" truncate>
              {shown(index - 1)}
            </Box>
            <Box fontSize={`${wordsSize}px`} fontWeight={600} lineHeight={1.15} minH="1.2em">
              {shown(index) || '…'}
            </Box>
            <Box fontSize={`${wordsSize * 0.55}px`} color="ink.soft" minH="1.4em" truncate>
              {shown(index + 1)}
            </Box>
          </>
        )}
      </Flex>
      <Flex align="center" gap={4} minH="40px" color="ink.soft" wrap="wrap">
        <Box visibility={playing ? 'visible' : 'hidden'}>
          <span ref={nextLine}>
            next line in <Box as="span" ref={countdown} fontSize="20px" fontWeight={700} color="ink" mx={1} /> beats ·{' '}
          </span>
          <span ref={bars} />
        </Box>
        <Box ml="auto">
          <LastPass />
        </Box>
      </Flex>
    </Card>
  )
}

/** Bars are counted from bar one: what lies before it has no number. */
function barName(grid: Grid, frame: number): string {
  const bar = barAtFrame(grid, frame)
  return bar < 1 ? 'before bar 1' : `bar ${bar}`
}

const MARKS: { mark: PassMark; name: string; key: string }[] = [
  { mark: 'star', name: 'Star', key: '↑' },
  { mark: 'spare', name: 'Spare', key: '→' },
  { mark: 'bin', name: 'Bin', key: '↓' },
]

/** What the singer says of the pass just sung, by one key, while the next one goes on. */
function LastPass() {
  const song = useSong(current => current)
  const { phase, marks, lastTakeIds, loopStartFrame } = useRecorder()
  const take = song.takes.find(entry => entry.id === lastTakeIds.at(-1))
  const looping = phase === 'rolling' && loopStartFrame !== null
  if (!looping && (phase !== 'idle' || !take || take.binned)) return <WordsSize />
  const said = looping
    ? Object.entries(marks)
        .filter(([, said]) => said.length > 0)
        .map(([pass, said]) => `pass ${pass}: ${said.join(' and ')}`)
        .join(', ')
    : ''
  const isSaid = (mark: PassMark) => !looping && take !== undefined && ((mark === 'star' && take.starred) || (mark === 'spare' && take.spare))
  return (
    <Flex align="center" gap={2}>
      <Text>{looping ? 'Last pass:' : `${take!.name}:`}</Text>
      {MARKS.map(({ mark, name, key }) => (
        <Pill key={mark} chosen={isSaid(mark)} onClick={() => markLastPass(mark)}>
          {name} <KeyCap>{key}</KeyCap>
        </Pill>
      ))}
      <Box as="span" role="status" fontSize="12px">
        {said}
      </Box>
    </Flex>
  )
}

function WordsSize() {
  const wordsSize = useBoothSettings(state => state.wordsSize)
  const change = (by: number) => setBooth({ wordsSize: Math.max(28, Math.min(120, wordsSize + by)) })
  return (
    <Flex gap={1} align="center" role="group" aria-label="Size of the words">
      <Pill size="xs" aria-label="Smaller words" onClick={() => change(-8)}>
        A−
      </Pill>
      <Pill size="xs" aria-label="Larger words" onClick={() => change(8)}>
        A+
      </Pill>
    </Flex>
  )
}
