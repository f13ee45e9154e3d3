/** Tempo and bar one: what was found, the next candidates, and every way to correct them. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { framesToSeconds, secondsToFrames } from '../../../core/audio/frames'
import { frameOfBeat, TEMPO_RANGE_BPM, type Grid } from '../../../core/beat/grid'
import { MINIMUM_TAPS, tempoFromTaps } from '../../../core/beat/tap'
import { gridOfReading, setGrid } from '../../../core/song/sections'
import { makeId } from '../../../storage/database'
import { formatTempo } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { playheadFrame } from '../../song/live'
import { edit, useSong } from '../../song/song-store'
import type { BeatFindings } from './use-beat-analysis'

const clampTempo = (bpm: number) => Math.max(TEMPO_RANGE_BPM.min, Math.min(TEMPO_RANGE_BPM.max, bpm))

export function TempoCard({ findings }: { findings: BeatFindings }) {
  const { grid, gridSource } = useSong(song => song.beat)
  const readings = findings.analysis?.tempo.readings ?? []
  const keep = (label: string, next: Partial<Grid>) => edit(label, song => setGrid(song, { grid: { ...song.beat.grid, ...next }, makeId }))
  const matching = readings.find(reading => Math.abs(reading.tempoBpm / grid.tempoBpm - 1) < 0.001)
  const barOnes = matching?.barOnes ?? []
  return (
    <Card>
      <Flex justify="space-between" align="baseline">
        <CardTitle>Tempo and bar one</CardTitle>
        <Text color="ink.soft">
          {gridSource === 'unknown' ? 'not known yet' : gridSource === 'typed' ? 'as you set it' : matching ? `heard, ${Math.round(matching.confidence * 100)} % sure` : 'heard'}
        </Text>
      </Flex>
      <Flex align="center" gap={2} mt={3} wrap="wrap">
        <NumberField label="Tempo" value={grid.tempoBpm} min={TEMPO_RANGE_BPM.min} max={TEMPO_RANGE_BPM.max} digits={3} unit="bpm" width="84px" onKeep={tempoBpm => keep(`set the tempo to ${formatTempo(tempoBpm)}`, { tempoBpm })} />
        <Pill onClick={() => keep('halve the tempo', { tempoBpm: clampTempo(grid.tempoBpm / 2) })}>Halve</Pill>
        <Pill onClick={() => keep('double the tempo', { tempoBpm: clampTempo(grid.tempoBpm * 2) })}>Double</Pill>
        <TapButton onTempo={tempoBpm => keep(`tap the tempo ${formatTempo(tempoBpm)}`, { tempoBpm: clampTempo(tempoBpm) })} />
      </Flex>
      {readings.length > 0 ? (
        <Flex gap={2} mt={3} wrap="wrap" align="center">
          <Text color="ink.soft">Heard:</Text>
          {readings.map(reading => (
            <Pill
              key={reading.tempoBpm}
              chosen={reading === matching}
              onClick={() => edit(`take ${formatTempo(Math.round(reading.tempoBpm * 100) / 100)} bpm`, song => setGrid(song, { grid: gridOfReading(reading, song.beat.grid.beatsPerBar), makeId, source: 'found' }))}
            >
              {formatTempo(Math.round(reading.tempoBpm * 100) / 100)} · {Math.round(reading.confidence * 100)} %
            </Pill>
          ))}
        </Flex>
      ) : null}
      {barOnes.length > 0 ? (
        <Flex gap={2} mt={2} wrap="wrap" align="center">
          <Text color="ink.soft">Bar one:</Text>
          {barOnes.map(reading => {
            const frame = secondsToFrames(reading.seconds)
            return (
              <Pill key={reading.seconds} chosen={Math.abs(frame - grid.barOneFrame) < 480} onClick={() => keep('take another bar one', { barOneFrame: frame })}>
                {reading.seconds.toFixed(2)} s · {Math.round(reading.confidence * 100)} %
              </Pill>
            )
          })}
        </Flex>
      ) : null}
      <Flex align="center" gap={2} mt={3} wrap="wrap">
        <Box>
          Bar one at <NumberField label="Bar one" value={framesToSeconds(grid.barOneFrame)} min={-30} max={600} digits={3} unit="s" width="76px" onKeep={seconds => keep('move bar one', { barOneFrame: secondsToFrames(seconds) })} />
        </Box>
        <Pill onClick={() => keep('nudge bar one 5 ms earlier', { barOneFrame: grid.barOneFrame - 240 })}>5 ms earlier</Pill>
        <Pill onClick={() => keep('nudge bar one 5 ms later', { barOneFrame: grid.barOneFrame + 240 })}>5 ms later</Pill>
        <Pill onClick={() => keep('move bar one by a beat', { barOneFrame: frameOfBeat(grid, 1) })}>One beat later</Pill>
        <Pill onClick={() => keep('set bar one here', { barOneFrame: Math.round(playheadFrame()) })} title="Where the playhead stands">
          Bar one is here
        </Pill>
        <Box>
          <NumberField label="Beats in a bar" value={grid.beatsPerBar} min={1} max={12} digits={0} width="44px" onKeep={beats => keep('set the beats in a bar', { beatsPerBar: Math.round(beats) })} /> beats a bar
        </Box>
      </Flex>
    </Card>
  )
}

const TAP_PAUSE_SECONDS = 3

/** Taps on the button or with its key; a pause begins anew. */
function TapButton({ onTempo }: { onTempo: (tempoBpm: number) => void }) {
  const [taps, setTaps] = useState<number[]>([])
  const tapped = tempoFromTaps(taps)
  const tap = (time: number) => {
    const last = taps.at(-1)
    setTaps(last !== undefined && time - last < TAP_PAUSE_SECONDS ? [...taps, time] : [time])
  }
  return (
    <>
      <Pill onPointerDown={event => tap(event.timeStamp / 1_000)} onKeyDown={event => (event.key === 't' || event.key === 'Enter') && !event.repeat && tap(event.timeStamp / 1_000)} title="Tap along: with the pointer, or T while this has the focus">
        Tap{taps.length > 0 && !tapped ? ` (${MINIMUM_TAPS - taps.length} more)` : ''}
      </Pill>
      {tapped ? (
        <Pill
          onClick={() => {
            onTempo(Math.round(tapped.tempoBpm * 10) / 10)
            setTaps([])
          }}
        >
          Use {tapped.tempoBpm.toFixed(1)} ± {(tapped.tempoBpm * tapped.spreadFraction).toFixed(1)}
        </Pill>
      ) : null}
    </>
  )
}
