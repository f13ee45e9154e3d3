/** Output and vocal levels, and what the ceiling holds back. */
import { Box, Flex, Grid } from '@chakra-ui/react'
import { useCallback, useRef } from 'react'
import type { MeterId } from '../../../core/mix/plan'
import { TRANSPORT } from '../../../engine/shared-state'
import { Card, CardTitle } from '../../shared/parts'
import { say, useFrameLoop } from '../../shared/use-frame-loop'
import { useLive } from '../../song/live'
import { useSong } from '../../song/song-store'
import { levelFraction } from './level-band'
import { WholeMix } from './whole-mix'

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
      <WholeMix />
      <Loudnesses />
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

/** In the song's own order of questions: does the voice stand over the beat, how loud is it all, what is lost on one loudspeaker. */
const LOUDNESSES: [name: string, read: (transport: Float64Array) => string][] = [
  [
    'Voices over the beat, 3 s',
    transport => {
      const over = transport[TRANSPORT.voicesShortLufs]! - transport[TRANSPORT.beatShortLufs]!
      return Number.isFinite(over) ? `${over > 0 ? '+' : ''}${over.toFixed(1)} LU` : '–'
    },
  ],
  ['Loudness now', transport => lufs(transport[TRANSPORT.outputMomentaryLufs]!)],
  ['Loudness, 3 s', transport => lufs(transport[TRANSPORT.outputShortLufs]!)],
  ['Loudness since it plays', transport => lufs(transport[TRANSPORT.outputIntegratedLufs]!)],
  ['Lost in mono, 3 s', transport => `${Math.abs(transport[TRANSPORT.monoLossDecibels]!).toFixed(1)} dB`],
]

function lufs(value: number): string {
  return Number.isFinite(value) && value !== 0 ? `${value.toFixed(1)} LUFS` : '–'
}

function Loudnesses() {
  return (
    <Grid mt={3} templateColumns="1fr auto" rowGap="2px">
      {LOUDNESSES.map(([name, read]) => (
        <LoudnessRow key={name} name={name} read={read} />
      ))}
    </Grid>
  )
}

function LoudnessRow({ name, read }: { name: string; read: (transport: Float64Array) => string }) {
  const number = useRef<HTMLDivElement>(null)
  const draw = useCallback(() => {
    const { engine, playing } = useLive.getState()
    say(number.current, engine && playing ? read(engine.transport) : '–')
  }, [read])
  useFrameLoop(draw)
  return (
    <>
      <Box>{name}</Box>
      <Box ref={number} textAlign="right" data-loudness={name}>
        –
      </Box>
    </>
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
