/** The input's level: average in the middle, peaks round it, the held peak as a line, the good range marked. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useCallback, useRef, useState } from 'react'
import { LEVEL } from '../../../engine/shared-state'
import { CardTitle, Pill, Well } from '../../shared/parts'
import { useFrameLoop } from '../../shared/use-frame-loop'
import { useLive } from '../../song/live'

const FLOOR_DBFS = -54
const GOOD_RANGE_DBFS = { from: -12, to: -6 }
const SCALE = [0, -6, -12, -24, -40]

const percentOf = (dbfs: number) => Math.max(0, Math.min(100, ((dbfs - FLOOR_DBFS) / -FLOOR_DBFS) * 100))
const dbfsOf = (level: number) => 20 * Math.log10(Math.max(1e-6, level))

export function VoiceMeter() {
  const peak = useRef<HTMLDivElement>(null)
  const average = useRef<HTMLDivElement>(null)
  const line = useRef<HTMLDivElement>(null)
  const text = useRef<HTMLParagraphElement>(null)
  const held = useRef(0)
  const [clipped, setClipped] = useState(false)
  const draw = useCallback(() => {
    const levels = useLive.getState().engine?.capture.levels
    if (!levels) return
    held.current = Math.max(held.current, levels[LEVEL.peak]!)
    if (peak.current) peak.current.style.height = `${percentOf(dbfsOf(levels[LEVEL.peak]!))}%`
    if (average.current) average.current.style.height = `${percentOf(dbfsOf(levels[LEVEL.rms]!))}%`
    if (line.current) line.current.style.bottom = `${percentOf(dbfsOf(held.current))}%`
    if (text.current) text.current.textContent = verdict(held.current)
    if (levels[LEVEL.clippedSamples]! > 2) setClipped(true)
  }, [])
  useFrameLoop(draw)
  const forget = () => {
    held.current = 0
    useLive.getState().engine?.capture.levels.fill(0)
    setClipped(false)
  }
  return (
    <Well display="flex" flexDirection="column" gap={2}>
      <Flex justify="space-between" align="center">
        <CardTitle>Your voice</CardTitle>
        <Pill size="xs" px={2} onClick={forget}>
          Reset
        </Pill>
      </Flex>
      <Flex flex="1" gap={3} minH="150px">
        <Box position="relative" width="64px" bg="card" borderRadius="12px" overflow="hidden" role="img" aria-label="Input level; its peak is written below">
          <Box position="absolute" left={0} right={0} bg="ok" opacity={0.18} bottom={`${percentOf(GOOD_RANGE_DBFS.from)}%`} height={`${percentOf(GOOD_RANGE_DBFS.to) - percentOf(GOOD_RANGE_DBFS.from)}%`} />
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
          <Box position="absolute" left="34px" bottom={`calc(${percentOf(-9)}% - 8px)`} whiteSpace="nowrap">
            good range
          </Box>
        </Box>
      </Flex>
      <Text ref={text} fontWeight={600} minH="20px" />
      {clipped ? (
        <Text role="status" color="warn" fontWeight={600}>
          Clipped. Turn the input down.
        </Text>
      ) : null}
    </Well>
  )
}

function verdict(level: number): string {
  const dbfs = dbfsOf(level)
  if (dbfs < -90) return 'Nothing heard yet'
  const loudest = `Loudest ${dbfs.toFixed(1)} dBFS`
  if (dbfs > GOOD_RANGE_DBFS.to) return `${loudest}: turn down ${Math.ceil(dbfs + 8)} dB`
  return dbfs < -24 ? `${loudest}: quiet` : dbfs < GOOD_RANGE_DBFS.from ? `${loudest}: a little low` : `${loudest}: good`
}
