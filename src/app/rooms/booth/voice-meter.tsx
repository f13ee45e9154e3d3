/** The input's level: average in the middle, peaks round it, the held peak as a line with its number, the good range marked, overload latched with its time. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useCallback, useRef, useState } from 'react'
import { GOOD_PEAK_DBFS } from '../../../core/voice/mic-check'
import { LEVEL } from '../../../engine/shared-state'
import { formatClock } from '../../shared/format'
import { CardTitle, Pill, Well } from '../../shared/parts'
import { say, useFrameLoop } from '../../shared/use-frame-loop'
import { playheadFrame, useLive } from '../../song/live'
import { LevelNote } from './level-note'

const FLOOR_DBFS = -54
const SCALE = [0, -6, -12, -24, -40]

const percentOf = (dbfs: number) => Math.max(0, Math.min(100, ((dbfs - FLOOR_DBFS) / -FLOOR_DBFS) * 100))
const dbfsOf = (level: number) => 20 * Math.log10(Math.max(1e-6, level))

/** When the input was first overloaded since the last reset: in the song while it rolls, else by the clock on the wall. */
interface Overload {
  when: string
  samples: number
}

export function VoiceMeter() {
  const peak = useRef<HTMLDivElement>(null)
  const average = useRef<HTMLDivElement>(null)
  const line = useRef<HTMLDivElement>(null)
  const number = useRef<HTMLDivElement>(null)
  const text = useRef<HTMLParagraphElement>(null)
  const held = useRef(0)
  const [overload, setOverload] = useState<Overload | null>(null)
  const draw = useCallback(() => {
    const { engine, playing } = useLive.getState()
    const levels = engine?.capture.levels
    if (!levels) return
    held.current = Math.max(held.current, levels[LEVEL.peak]!)
    const heldDbfs = dbfsOf(held.current)
    if (peak.current) peak.current.style.height = `${percentOf(dbfsOf(levels[LEVEL.peak]!))}%`
    if (average.current) average.current.style.height = `${percentOf(dbfsOf(levels[LEVEL.rms]!))}%`
    if (line.current) line.current.style.bottom = `${percentOf(heldDbfs)}%`
    if (number.current) number.current.style.bottom = `calc(${percentOf(heldDbfs)}% - 9px)`
    say(number.current, heldDbfs > FLOOR_DBFS ? `held ${heldDbfs.toFixed(1)}` : '')
    say(text.current, verdict(held.current))
    const clipped = levels[LEVEL.clippedSamples]!
    if (clipped > 2)
      setOverload(before =>
        before && before.samples === clipped
          ? before
          : { when: before?.when ?? (playing ? `at ${formatClock(playheadFrame())}` : `at ${new Date().toLocaleTimeString('en-GB')}`), samples: clipped },
      )
  }, [])
  useFrameLoop(draw, isListening)
  const forget = () => {
    held.current = 0
    useLive.getState().engine?.capture.levels.fill(0)
    setOverload(null)
  }
  return (
    <Well display="flex" flexDirection="column" gap={2}>
      <Flex justify="space-between" align="center">
        <CardTitle>Your voice</CardTitle>
        <Pill size="xs" px={2} onClick={forget}>
          Reset
        </Pill>
      </Flex>
      <Flex flex="1" gap={3} minH="140px">
        <Box position="relative" width="64px" bg="card" borderRadius="12px" overflow="hidden" role="img" aria-label="Input level; its peak is written below">
          <Box
            position="absolute"
            left={0}
            right={0}
            bg="ok"
            opacity={0.18}
            borderYWidth="1px"
            borderColor="ink"
            bottom={`${percentOf(GOOD_PEAK_DBFS.from)}%`}
            height={`${percentOf(GOOD_PEAK_DBFS.to) - percentOf(GOOD_PEAK_DBFS.from)}%`}
          />
          <Box ref={peak} position="absolute" bottom={0} left="14%" right="14%" bg="brand" opacity={0.35} borderRadius="10px" />
          <Box ref={average} position="absolute" bottom={0} left="28%" right="28%" bg="brand" borderRadius="8px" />
          <Box ref={line} position="absolute" left="4px" right="4px" borderTopWidth="2px" borderStyle="dashed" borderColor="ink" bottom={0} />
        </Box>
        <Box position="relative" flex="1" fontSize="12px" color="ink.soft">
          {SCALE.map(dbfs => (
            <Box key={dbfs} position="absolute" bottom={`calc(${percentOf(dbfs)}% - 8px)`}>
              {dbfs}
            </Box>
          ))}
          <Box ref={number} position="absolute" left="34px" fontWeight={700} color="ink" whiteSpace="nowrap" />
          <Box position="absolute" left="34px" bottom={`calc(${percentOf(-15)}% - 8px)`} whiteSpace="nowrap">
            good range
          </Box>
        </Box>
      </Flex>
      <Text ref={text} fontWeight={600} minH="20px" />
      {overload ? (
        <Text role="status" color="warn" fontWeight={600}>
          Overloaded {overload.when}, {overload.samples} samples. Turn the input down.
        </Text>
      ) : null}
      <LevelNote />
    </Well>
  )
}

/** A microphone is heard while nothing plays, too. */
function isListening(): boolean {
  return useLive.getState().engine !== null
}

function verdict(level: number): string {
  const dbfs = dbfsOf(level)
  if (dbfs < -90) return 'Nothing heard yet'
  if (dbfs < FLOOR_DBFS) return 'Only the room so far'
  const loudest = `Loudest ${dbfs.toFixed(1)} dBFS`
  if (dbfs > GOOD_PEAK_DBFS.to) return `${loudest}: turn down ${Math.ceil(dbfs + 8)} dB`
  return dbfs < -24 ? `${loudest}: quiet` : dbfs < GOOD_PEAK_DBFS.from ? `${loudest}: a little low` : `${loudest}: good`
}
