/** One delivery: its progress, or the file with a short report. */
import { Box, Button, Flex } from '@chakra-ui/react'
import { Download } from 'lucide-react'
import type { DeliveryFormat } from '../../../core/deliver/encoders'
import { formatDecibels, formatLevel } from '../../shared/format'
import { Card, Notice, Pill, ProgressBar } from '../../shared/parts'
import { missingText } from '../../shared/missing-text'
import { currentSong } from '../../song/song-store'
import type { DeliveryItem } from './deliveries'

export function DeliveryRow({ item, onCancel }: { item: DeliveryItem; onCancel: () => void }) {
  if (item.kind === 'empty')
    return (
      <Notice tone="warn" title={`${item.fileName}: nothing in it sounds.`}>
        Pick takes in Comp, or unmute the layers or the beat in Mix. No file was made.
      </Notice>
    )
  if (item.kind === 'missing') {
    return (
      <Notice tone="warn" title={`${item.fileName}: some sound is not there.`}>
        {missingText(currentSong(), item.missing)} No file was made yet.
        <Pill size="xs" ml={2} onClick={item.goOn}>
          Go on without it
        </Pill>
      </Notice>
    )
  }
  if (item.kind === 'failed')
    return (
      <Notice tone="warn" title={`${item.fileName} could not be made.`}>
        The song is as it was. Try again; free some disk space if it happens again. ({item.detail})
      </Notice>
    )
  return (
    <Card py={3} data-delivery={item.fileName}>
      <Flex align="center" gap={4}>
        <Box flex="1" minW={0}>
          <Box fontWeight={600} truncate>
            {item.fileName}
          </Box>
          {item.kind === 'running' ? (
            <ProgressBar mt={2} fraction={item.fraction} label={`Making ${item.fileName}`} />
          ) : (
            <Box color="ink.soft">
              {item.report ? reportText(item.report) : null} {(item.bytes / 1e6).toFixed(1)} MB
            </Box>
          )}
        </Box>
        {item.kind === 'running' ? (
          <Pill onClick={onCancel}>Cancel</Pill>
        ) : (
          <Button asChild size="sm" variant="outline" borderRadius="full" borderColor="seamline" color="ink">
            <a href={item.url} download={item.fileName}>
              <Download size={15} aria-hidden /> Save
            </a>
          </Button>
        )}
      </Flex>
    </Card>
  )
}

const DETAIL: { [K in DeliveryFormat['kind']]: (format: Extract<DeliveryFormat, { kind: K }>) => string } = {
  wav: ({ bits }) => `${bits} bits`,
  flac: () => 'FLAC of 24 bits',
  mp3: ({ kbps }) => `MP3 of ${kbps} kbps`,
}

function reportText(report: NonNullable<Extract<DeliveryItem, { kind: 'ready' }>['report']>): string {
  const { seconds, loudness, renderSeconds, ceilingTouched, format, aimed } = report
  const parts = [
    `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`,
    `peak ${formatLevel(loudness.samplePeakDbfs, 'dBFS')}`,
    `true peak ${formatLevel(loudness.truePeakDbtp, 'dBTP')}`,
    formatLevel(loudness.integratedLufs, 'LUFS'),
    `${format.sampleRateHz / 1_000} kHz, ${DETAIL[format.kind](format as never)}`,
    `made ${(seconds / renderSeconds).toFixed(0)} times faster than it plays`,
  ]
  if (aimed) parts.push(`made ${formatDecibels(aimed.gainDecibels, -Infinity)} louder, peaks held back by ${aimed.heldDecibels.toFixed(1)} dB at most`)
  else if (ceilingTouched) parts.push('the ceiling was touched')
  return `${parts.join(' · ')} ·`
}
