/** Tempo and metre: what was found, the next candidates, and every way to correct them. */
import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react'
import { memo, useState } from 'react'
import { formatMeter, TEMPO_RANGE_BPM, withDoubledTempo, withHalvedTempo, withTempo, type Grid } from '../../../core/beat/grid'
import type { TempoReading, TempoWish } from '../../../core/beat/tempo'
import { MINIMUM_TAPS, tempoFromTaps } from '../../../core/beat/tap'
import { gridOfReading } from '../../../core/song/beat-facts'
import { formatConfidence, formatTempo } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { keepGrid } from './keep-grid'
import { useWishedTempo } from './use-beat-analysis'

const METERS: { label: string; meter: Pick<Grid, 'beatsPerBar' | 'beatUnit'> }[] = [2, 3, 4, 5, 6, 7]
  .map((beatsPerBar): Pick<Grid, 'beatsPerBar' | 'beatUnit'> => ({ beatsPerBar, beatUnit: 'quarter' }))
  .concat([2, 3, 4].map(beatsPerBar => ({ beatsPerBar, beatUnit: 'dotted-quarter' })))
  .map(meter => ({ label: formatMeter(meter), meter }))

export const TempoCard = memo(function TempoCard({ heard }: { heard: readonly TempoReading[] }) {
  const { grid, gridSource, fileSays } = useSong(song => song.beat)
  const [range, setRange] = useState<TempoWish['range'] | null>(null)
  const inRange = useWishedTempo(range ? { range } : null)
  const readings = inRange.data?.readings ?? heard
  const matching = readings.find(reading => Math.abs(reading.tempoBpm / grid.tempoBpm - 1) < 0.001)
  const keepTempo = (label: string, tempoBpm: number) => keepGrid(label, current => withTempo(current, tempoBpm))
  return (
    <Card>
      <Flex justify="space-between" align="baseline">
        <CardTitle>Tempo</CardTitle>
        <Text color="ink.soft">
          {gridSource === 'unknown'
            ? 'not known yet'
            : gridSource === 'typed'
              ? 'as you set it'
              : matching
                ? `heard, ${formatConfidence(matching.confidence)} sure`
                : 'heard'}
        </Text>
      </Flex>
      <Flex align="center" gap={2} mt={3} wrap="wrap">
        <NumberField
          label="Tempo"
          value={grid.tempoBpm}
          min={TEMPO_RANGE_BPM.min}
          max={TEMPO_RANGE_BPM.max}
          digits={3}
          unit="bpm"
          width="76px"
          onKeep={tempoBpm => keepTempo(`set the tempo to ${formatTempo(tempoBpm)}`, tempoBpm)}
        />
        <Pill disabled={grid.tempoBpm / 2 < TEMPO_RANGE_BPM.min} onClick={() => keepGrid('halve the tempo', withHalvedTempo)}>
          Halve
        </Pill>
        <Pill disabled={grid.tempoBpm * 2 > TEMPO_RANGE_BPM.max} onClick={() => keepGrid('double the tempo', withDoubledTempo)}>
          Double
        </Pill>
        <TapButton onTempo={tempoBpm => keepTempo(`tap the tempo ${formatTempo(tempoBpm)}`, tempoBpm)} />
        <NativeSelect.Root size="sm" width="76px">
          <NativeSelect.Field
            aria-label="Metre"
            bg="card"
            borderColor="seamline"
            value={formatMeter(grid)}
            onChange={event =>
              keepGrid(`set the metre to ${event.target.value}`, current => ({
                ...current,
                ...METERS.find(({ label }) => label === event.target.value)!.meter,
              }))
            }
          >
            {METERS.some(({ label }) => label === formatMeter(grid)) ? null : <option>{formatMeter(grid)}</option>}
            {METERS.map(({ label }) => (
              <option key={label}>{label}</option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      {readings.length > 0 ? (
        <Flex gap={2} mt={3} wrap="wrap" align="center">
          <Text color="ink.soft">Heard:</Text>
          {readings.map(reading => (
            <Pill
              key={reading.tempoBpm}
              chosen={reading === matching}
              onClick={() => keepGrid(`take ${tempoOfReading(reading)} bpm`, () => gridOfReading(reading), 'found')}
            >
              {tempoOfReading(reading)} · {formatConfidence(reading.confidence)}
            </Pill>
          ))}
        </Flex>
      ) : null}
      {fileSays.tempoBpm !== null ? (
        <Flex gap={2} mt={2} align="center" color="ink.soft">
          <Text>The file itself says {formatTempo(fileSays.tempoBpm)} bpm.</Text>
          {Math.abs(fileSays.tempoBpm / grid.tempoBpm - 1) > 0.0005 ? (
            <Pill onClick={() => keepTempo('take the tempo of the file', fileSays.tempoBpm!)}>Take that</Pill>
          ) : null}
        </Flex>
      ) : null}
      <TempoNotes readings={readings} matching={matching ?? null} grid={grid} typed={gridSource === 'typed'} />
      <RangeLine range={range} busy={inRange.isFetching} empty={inRange.data?.readings.length === 0} onRange={setRange} />
    </Card>
  )
})

/** "87", "69.45 in 3/4". */
export function tempoOfReading({ tempoBpm, meter }: TempoReading): string {
  return `${formatTempo(Math.round(tempoBpm * 100) / 100)}${meter.join() === '4,4' ? '' : ` in ${meter.join('/')}`}`
}

/** What is worth knowing beside the number: a typed tempo the beat does not keep, a tempo that drifts, swing. */
function TempoNotes({ readings, matching, grid, typed }: { readings: readonly TempoReading[]; matching: TempoReading | null; grid: Grid; typed: boolean }) {
  const near = readings.flatMap(reading => [0.5, 1, 2].map(factor => reading.tempoBpm * factor)).find(bpm => Math.abs(bpm / grid.tempoBpm - 1) < 0.03)
  const off = near ? near / grid.tempoBpm - 1 : 0
  const beatRuns = formatTempo(Math.round((near ?? 0) * 100) / 100)
  const notes = [
    typed && near && Math.abs(off) > 0.002
      ? `The beat itself runs at ${beatRuns} bpm, ${Math.abs(off * 100).toFixed(1)} % ${off > 0 ? 'faster' : 'slower'} than you typed.`
      : null,
    grid.map ? 'The tempo drifts; the bars follow it.' : null,
    matching?.swing ? `Swings: every second of the ${matching.swing.unit} comes at ${Math.round(matching.swing.ratio * 100)} % of the pair.` : null,
  ].filter(note => note !== null)
  return notes.length > 0 ? (
    <Text mt={2} color="ink.soft">
      {notes.join(' ')}
    </Text>
  ) : null
}

interface RangeLineProps {
  range: TempoWish['range'] | null
  busy: boolean
  empty: boolean
  onRange: (range: TempoWish['range'] | null) => void
}

/** Readings may be steered into a range. */
function RangeLine({ range, busy, empty, onRange }: RangeLineProps) {
  const [limits, setLimits] = useState({ minBpm: 70, maxBpm: 140 })
  return (
    <Flex align="center" gap={2} mt={3} wrap="wrap" color="ink.soft">
      <Box>
        Look between{' '}
        <NumberField
          label="Slowest"
          value={limits.minBpm}
          min={TEMPO_RANGE_BPM.min}
          max={limits.maxBpm - 1}
          digits={0}
          width="44px"
          onKeep={minBpm => setLimits({ ...limits, minBpm })}
        />{' '}
        and{' '}
        <NumberField
          label="Fastest"
          value={limits.maxBpm}
          min={limits.minBpm + 1}
          max={TEMPO_RANGE_BPM.max}
          digits={0}
          unit="bpm"
          width="44px"
          onKeep={maxBpm => setLimits({ ...limits, maxBpm })}
        />
      </Box>
      <Pill disabled={busy} onClick={() => onRange(limits)}>
        {busy ? 'Listening …' : 'Look'}
      </Pill>
      {range && !busy ? <Pill onClick={() => onRange(null)}>Any tempo again</Pill> : null}
      {range && empty && !busy ? <Text>Nothing is heard there.</Text> : null}
    </Flex>
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
      <Pill
        onPointerDown={event => tap(event.timeStamp / 1_000)}
        onKeyDown={event => (event.key === 't' || event.key === 'Enter') && !event.repeat && tap(event.timeStamp / 1_000)}
        title="Tap along: with the pointer, or T while this has the focus"
      >
        Tap{taps.length > 0 && !tapped ? ` (${MINIMUM_TAPS - taps.length} more)` : ''}
      </Pill>
      {tapped ? (
        <Pill
          onClick={() => {
            onTempo(Math.max(TEMPO_RANGE_BPM.min, Math.min(TEMPO_RANGE_BPM.max, Math.round(tapped.tempoBpm * 10) / 10)))
            setTaps([])
          }}
        >
          Use {tapped.tempoBpm.toFixed(1)} ± {(tapped.tempoBpm * tapped.spreadFraction).toFixed(1)}
        </Pill>
      ) : null}
    </>
  )
}
