/** A song without a beat: a click or a drone to sing over, at a typed tempo; a beat can be brought in later. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { TONICS, type Tonic } from '../../../core/beat/key-names'
import { PLAIN_BEAT_RANGES, type PlainBeat } from '../../../core/beat/plain-beat'
import { formatNote } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill, PrimaryButton } from '../../shared/parts'
import { PillSelect } from '../../shared/pill-select'

type Sound = 'click' | 'drone' | 'both'
const SOUNDS: [Sound, string][] = [
  ['click', 'a click'],
  ['drone', 'a drone'],
  ['both', 'both'],
]

export function WithoutBeat({ busy, onBegin, onClose }: { busy: boolean; onBegin: (beat: PlainBeat) => void; onClose: () => void }) {
  const [tempoBpm, setTempo] = useState(90)
  const [beatsPerBar, setBeats] = useState(4)
  const [bars, setBars] = useState(64)
  const [sound, setSound] = useState<Sound>('click')
  const [tonic, setTonic] = useState<Tonic>('C')
  const [mode, setMode] = useState<'major' | 'minor'>('minor')
  const key = { tonic, mode }
  const seconds = (bars * beatsPerBar * 60) / tempoBpm
  return (
    <Card mb={5} role="group" aria-label="Sing without a beat">
      <CardTitle>Sing without a beat</CardTitle>
      <Text color="ink.soft" mt={1}>
        Over a click, a drone, or both. When there is a beat at this tempo, “Newer file” in Beat lays it under what you have sung.
      </Text>
      <Flex gap={4} mt={3} align="center" wrap="wrap">
        <NumberField label="Tempo" value={tempoBpm} {...PLAIN_BEAT_RANGES.tempoBpm} digits={2} unit="bpm" onKeep={setTempo} />
        <NumberField label="Beats a bar" value={beatsPerBar} {...PLAIN_BEAT_RANGES.beatsPerBar} digits={0} unit="beats a bar" width="44px" onKeep={setBeats} />
        <NumberField label="Length" value={bars} {...PLAIN_BEAT_RANGES.bars} digits={0} unit="bars" width="52px" onKeep={setBars} />
        <Text color="ink.soft">
          {Math.floor(seconds / 60)}:{String(Math.round(seconds % 60)).padStart(2, '0')}
        </Text>
      </Flex>
      <Flex gap={2} mt={3} align="center" wrap="wrap">
        <Text>To sing over:</Text>
        {SOUNDS.map(([kind, name]) => (
          <Pill key={kind} size="xs" px={3} chosen={sound === kind} onClick={() => setSound(kind)}>
            {name}
          </Pill>
        ))}
        <Text ml={3}>Key:</Text>
        <PillSelect
          label="Tonic of the new song"
          size="xs"
          width="72px"
          value={tonic}
          options={TONICS.map(name => ({ value: name, label: formatNote(name) }))}
          onChoose={name => setTonic(name as Tonic)}
        />
        <PillSelect
          label="Mode of the new song"
          size="xs"
          width="92px"
          value={mode}
          options={[
            { value: 'major', label: 'major' },
            { value: 'minor', label: 'minor' },
          ]}
          onChoose={name => setMode(name as 'major' | 'minor')}
        />
        <Box flex="1" />
        <Pill onClick={onClose}>Not now</Pill>
        <PrimaryButton
          disabled={busy}
          onClick={() => onBegin({ tempoBpm, beatsPerBar, bars, click: sound !== 'drone', drone: sound === 'click' ? null : key, key })}
        >
          Begin
        </PrimaryButton>
      </Flex>
    </Card>
  )
}
