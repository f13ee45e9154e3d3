/** The key: what was found, the next candidates, the scale, and correction by hand. */
import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react'
import { Scale } from 'tonal'
import { TONICS, type Key, type Mode, type Tonic } from '../../../core/beat/key'
import { setKey } from '../../../core/song/sections'
import { formatKey, formatNote } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import type { BeatFindings } from './use-beat-analysis'

export function KeyCard({ findings }: { findings: BeatFindings }) {
  const { key, keySource, tuningCents } = useSong(song => song.beat)
  const readings = findings.analysis?.key.readings ?? []
  const keep = (next: Key, source: 'typed' | 'found') => edit(`set the key to ${formatKey(next)}`, song => setKey(song, { key: next, source }))
  const matching = readings.find(reading => reading.key.tonic === key?.tonic && reading.key.mode === key.mode)
  const notes = key ? Scale.get(`${key.tonic} ${key.mode}`).notes.map(formatNote) : []
  return (
    <Card>
      <Flex justify="space-between" align="baseline">
        <CardTitle>Key</CardTitle>
        <Text color="ink.soft">{key === null ? 'not known yet' : keySource === 'typed' ? 'as you set it' : matching ? `heard, ${Math.round(matching.confidence * 100)} % sure` : 'heard'}</Text>
      </Flex>
      <Flex align="center" gap={2} mt={3} wrap="wrap">
        <NativeSelect.Root size="sm" width="84px">
          <NativeSelect.Field aria-label="Tonic" bg="card" borderColor="seamline" value={key?.tonic ?? ''} onChange={event => keep({ tonic: event.target.value as Tonic, mode: key?.mode ?? 'minor' }, 'typed')}>
            {key === null ? <option value="">–</option> : null}
            {TONICS.map(tonic => (
              <option key={tonic} value={tonic}>
                {formatNote(tonic)}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <NativeSelect.Root size="sm" width="104px">
          <NativeSelect.Field aria-label="Mode" bg="card" borderColor="seamline" value={key?.mode ?? 'minor'} onChange={event => keep({ tonic: key?.tonic ?? 'C', mode: event.target.value as Mode }, 'typed')}>
            <option value="minor">minor</option>
            <option value="major">major</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Box>
          tuned <NumberField label="Tuning of the beat" value={tuningCents} min={-50} max={50} digits={0} unit="cents" width="52px" onKeep={cents => edit('set the tuning', song => setKey(song, { key: song.beat.key, tuningCents: cents, source: song.beat.keySource }))} />
        </Box>
      </Flex>
      {readings.length > 0 ? (
        <Flex gap={2} mt={3} wrap="wrap" align="center">
          <Text color="ink.soft">Heard:</Text>
          {readings.map(reading => (
            <Pill key={formatKey(reading.key)} chosen={reading === matching} onClick={() => keep(reading.key, 'found')}>
              {formatKey(reading.key)} · {Math.round(reading.confidence * 100)} %
            </Pill>
          ))}
        </Flex>
      ) : findings.analysis ? (
        <Text color="ink.soft" mt={3}>
          No key was heard: there is nothing pitched in this beat. Choose one if you know it.
        </Text>
      ) : null}
      {notes.length > 0 ? (
        <Text mt={3} color="ink.soft">
          Its notes: <Box as="span" color="ink">{notes.join('  ')}</Box>
        </Text>
      ) : null}
    </Card>
  )
}
