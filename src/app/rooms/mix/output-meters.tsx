/** Output and vocal levels, and what the ceiling holds back. */
import { Box, Flex } from '@chakra-ui/react'
import { useCallback, useRef } from 'react'
import type { MeterId } from '../../../core/mix/plan'
import { TRANSPORT } from '../../../engine/shared-state'
import { Card, CardTitle } from '../../shared/parts'
import { say, useFrameLoop } from '../../shared/use-frame-loop'
import { useLive } from '../../song/live'
import { useSong } from '../../song/song-store'
import { levelFraction } from './level-band'

export function OutputMeters() {
  const ceiling = useSong(song => song.output.ceilingDbfs)
  return (
    <Card>
      <CardTitle>Output</CardTitle>
      <Flex direction="column" gap={2} mt={2}>
        <Meter name="Voices" of="voices" />
        <Meter name="Output" of="output" />
      </Flex>
      <CeilingText ceiling={ceiling} />
    </Card>
  )
}

function Meter({ name, of }: { name: string; of: MeterId }) {
  const band = useRef<HTMLDivElement>(null)
  const number = useRef<HTMLDivElement>(null)
  const draw = useCallback(() => {
    const { engine, playing } = useLive.getState()
    const peak = engine && playing ? engine.peakOf(of) : 0
    if (band.current) band.current.style.transform = `scaleX(${levelFraction(peak)})`
    say(number.current, peak > 0.001 ? `${(20 * Math.log10(peak)).toFixed(1)} dBFS` : '–')
  }, [of])
  useFrameLoop(draw)
  return (
    <Flex align="center" gap={3} role="group" aria-label={`${name} peak`}>
      <Box flex="0 0 60px">{name}</Box>
      <Box flex="1" height="10px" bg="sunken" borderRadius="full" overflow="hidden">
        <Box ref={band} height="100%" bg="brand" borderRadius="full" transformOrigin="left" transform="scaleX(0)" />
      </Box>
      <Box ref={number} flex="0 0 84px" textAlign="right">
        –
      </Box>
    </Flex>
  )
}

function CeilingText({ ceiling }: { ceiling: number }) {
  const text = useRef<HTMLDivElement>(null)
  const draw = useCallback(() => {
    const { engine, playing } = useLive.getState()
    const reduction = engine && playing ? engine.transport[TRANSPORT.ceilingReductionDecibels]! : 0
    say(text.current, reduction > 0.05 ? `The ceiling at ${ceiling} dBFS holds back ${reduction.toFixed(1)} dB` : `Ceiling at ${ceiling} dBFS, not touched`)
  }, [ceiling])
  useFrameLoop(draw)
  return <Box ref={text} color="ink.soft" mt={2} fontSize="12px" />
}
