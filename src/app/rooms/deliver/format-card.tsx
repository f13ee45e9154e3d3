/** What the files are like: where they go, their format, how loud, how much of the song, their names and tags. */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { DELIVERY_BITS, DELIVERY_RATES_HZ, MP3_KBPS, type DeliveryFormat, type WavFormat } from '../../../core/deliver/encoders'
import { AIM_RANGES } from '../../../core/deliver/loudness-aim'
import { NAME_PIECES } from '../../../core/files/names'
import { NameField } from '../../shared/name-field'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { DESTINATIONS, setDeliver, useDeliverSettings, type Destination } from './deliver-settings'

const KINDS: [DeliveryFormat['kind'], string, string][] = [
  ['wav', 'WAV', 'Every program reads it'],
  ['flac', 'FLAC', '24 bits, nothing lost, about half the size'],
  ['mp3', 'MP3', 'Small, to send; plays to the frame'],
]
const BITS_MEAN: Record<WavFormat['bits'], string> = {
  16: 'The smallest; for a CD, or a teacher',
  24: 'For everything',
  32: 'Floats, in which nothing is rounded; for a mixing friend',
}

function ofKind(kind: DeliveryFormat['kind'], { sampleRateHz }: DeliveryFormat): DeliveryFormat {
  return kind === 'wav' ? { kind, bits: 24, sampleRateHz } : kind === 'mp3' ? { kind, kbps: 320, sampleRateHz } : { kind, sampleRateHz }
}

interface FormatCardProps {
  /** What of the song: all, or what is selected on the sheet. */
  onlySelected: boolean
  onOnlySelected: (only: boolean) => void
  /** How the selection is called; null: all is selected. */
  selected: string | null
  /** What a file would be called. */
  example: string
}

export function FormatCard({ onlySelected, onOnlySelected, selected, example }: FormatCardProps) {
  const { format, aim, pattern, artist, album } = useDeliverSettings()
  const isChosen = (to: Destination) => JSON.stringify([to.format, to.aim]) === JSON.stringify([format, aim])
  const chosen = DESTINATIONS.find(isChosen)
  return (
    <Card>
      <CardTitle>What they are like</CardTitle>
      <Row label="They go to">
        {DESTINATIONS.map(to => (
          <Pill key={to.name} size="xs" px={3} chosen={to === chosen} title={to.says} onClick={() => setDeliver({ format: to.format, aim: to.aim })}>
            {to.name}
          </Pill>
        ))}
      </Row>
      {chosen ? (
        <Text color="ink.soft" fontSize="13px" mt={1}>
          {chosen.says}
        </Text>
      ) : null}
      <Row label="Format">
        {KINDS.map(([kind, name, means]) => (
          <Pill key={kind} size="xs" px={3} chosen={format.kind === kind} title={means} onClick={() => setDeliver({ format: ofKind(kind, format) })}>
            {name}
          </Pill>
        ))}
        {format.kind === 'wav'
          ? DELIVERY_BITS.map(bits => (
              <Pill
                key={bits}
                size="xs"
                px={3}
                chosen={format.bits === bits}
                title={BITS_MEAN[bits]}
                onClick={() => setDeliver({ format: { ...format, bits } })}
              >
                {bits} bits
              </Pill>
            ))
          : null}
        {format.kind === 'mp3'
          ? MP3_KBPS.map(kbps => (
              <Pill key={kbps} size="xs" px={3} chosen={format.kbps === kbps} onClick={() => setDeliver({ format: { ...format, kbps } })}>
                {kbps} kbps
              </Pill>
            ))
          : null}
      </Row>
      <Row label="Rate">
        {[...DELIVERY_RATES_HZ].reverse().map(sampleRateHz => (
          <Pill
            key={sampleRateHz}
            size="xs"
            px={3}
            chosen={format.sampleRateHz === sampleRateHz}
            onClick={() => setDeliver({ format: { ...format, sampleRateHz } })}
          >
            {sampleRateHz / 1_000} kHz
          </Pill>
        ))}
      </Row>
      <Row label="How loud">
        <Pill size="xs" px={3} chosen={aim === null} onClick={() => setDeliver({ aim: null })}>
          as mixed
        </Pill>
        <Pill size="xs" px={3} chosen={aim !== null} onClick={() => setDeliver({ aim: aim ?? { lufs: -14, truePeakDbtp: -1 } })}>
          at a loudness
        </Pill>
        {aim ? (
          <>
            <NumberField
              label="Loudness aimed at"
              value={aim.lufs}
              {...AIM_RANGES.lufs}
              unit="LUFS"
              width="52px"
              onKeep={lufs => setDeliver({ aim: { ...aim, lufs } })}
            />
            <NumberField
              label="True peaks under"
              value={aim.truePeakDbtp}
              {...AIM_RANGES.truePeakDbtp}
              unit="dBTP"
              width="48px"
              onKeep={truePeakDbtp => setDeliver({ aim: { ...aim, truePeakDbtp } })}
            />
          </>
        ) : null}
      </Row>
      {aim ? (
        <Text color="ink.soft" fontSize="13px" mt={1}>
          Each file by itself: stems that are each this loud do not sum to the mix.
        </Text>
      ) : null}
      <Row label="How much">
        <Pill size="xs" px={3} chosen={!onlySelected || selected === null} onClick={() => onOnlySelected(false)}>
          the whole song
        </Pill>
        <Pill size="xs" px={3} chosen={onlySelected && selected !== null} disabled={selected === null} onClick={() => onOnlySelected(true)}>
          only {selected ?? 'what is selected'}
        </Pill>
      </Row>
      <Row label="Names">
        <NameField label="Pattern of file names" name={pattern} width="260px" borderColor="seamline" onKeep={kept => setDeliver({ pattern: kept })} />
      </Row>
      <Text color="ink.soft" fontSize="13px" mt={1}>
        {example} <br />
        Pieces: {NAME_PIECES.map(piece => `{${piece}}`).join(' ')}
      </Text>
      <Row label="Tags">
        <Text>Artist</Text>
        <NameField label="Artist" name={artist} mayBeEmpty width="124px" borderColor="seamline" onKeep={kept => setDeliver({ artist: kept })} />
        <Text>Album</Text>
        <NameField label="Album" name={album} mayBeEmpty width="124px" borderColor="seamline" onKeep={kept => setDeliver({ album: kept })} />
      </Row>
    </Card>
  )
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Grid templateColumns="78px minmax(0, 1fr)" alignItems="baseline" mt={2} role="group" aria-label={label}>
      <Box>{label}</Box>
      <Flex align="center" gap="6px" wrap="wrap">
        {children}
      </Flex>
    </Grid>
  )
}
