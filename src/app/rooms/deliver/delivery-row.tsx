/** One delivery: its progress, or the file with its report; made again of the song as it is now, or compared with another. */
import { Box, Button, Flex, Text } from '@chakra-ui/react'
import { Download, X } from 'lucide-react'
import { useState } from 'react'
import { warningsOf } from '../../../core/deliver/warnings'
import { count, formatMoment } from '../../shared/format'
import { Card, Notice, Pill, ProgressBar, SmallButton } from '../../shared/parts'
import { missingText } from '../../shared/missing-text'
import { currentSong, useSongStore } from '../../song/song-store'
import { forget, makeAgain, type DeliveryItem, type ReadyDelivery } from './deliveries'
import { longReport, shortReport } from './report-text'

interface DeliveryRowProps {
  item: DeliveryItem
  onCancel: () => void
  /** Whether it is one of two that are compared; null where it cannot be. */
  compared: boolean | null
  onCompare: () => void
}

export function DeliveryRow({ item, onCancel, compared, onCompare }: DeliveryRowProps) {
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
  if (item.kind === 'no-encoder')
    return (
      <Notice tone="warn" title={`${item.fileName}: this browser cannot write this kind of file.`}>
        Choose MP3, AAC, FLAC or WAV, which can be written anywhere. No file was made.
      </Notice>
    )
  if (item.kind === 'failed')
    return (
      <Notice tone="warn" title={`${item.fileName} could not be made.`}>
        The song is as it was. Try again; free some disk space if it happens again. ({item.detail})
      </Notice>
    )
  return (
    <Card py={3} data-delivery={item.fileName}>
      <Flex align="center" gap={2}>
        <Box flex="1" minW={0}>
          <Box fontWeight={600} truncate>
            {item.fileName}
          </Box>
          {item.kind === 'running' ? <ProgressBar mt={2} fraction={item.fraction} label={`Making ${item.fileName}`} /> : <ReadyText item={item} />}
        </Box>
        {item.kind === 'running' ? (
          <Pill onClick={onCancel}>Cancel</Pill>
        ) : (
          <>
            {item.url && compared !== null ? (
              <Pill size="xs" px={3} chosen={compared} onClick={onCompare} aria-label={`Compare ${item.fileName}`}>
                Compare
              </Pill>
            ) : null}
            {item.asked ? (
              <Pill size="xs" px={3} title="Of the song as it is now" onClick={() => makeAgain(item.asked!)}>
                Make again
              </Pill>
            ) : null}
            {item.url ? (
              <Button asChild size="sm" variant="outline" borderRadius="full" borderColor="seamline" color="ink">
                <a href={item.url} download={item.fileName}>
                  <Download size={15} aria-hidden /> Save
                </a>
              </Button>
            ) : null}
            <SmallButton aria-label={`Forget ${item.fileName}`} title="Forget it; saved files stay" onClick={() => forget(item)}>
              <X size={15} aria-hidden />
            </SmallButton>
          </>
        )}
      </Flex>
    </Card>
  )
}

function ReadyText({ item }: { item: ReadyDelivery }) {
  const { asked, madeAt, report, bytes, url } = item
  const steps = useStepsSince(item.position)
  const made = [
    ...(asked ? [`version ${asked.version}`] : []),
    formatMoment(madeAt),
    ...(steps > 0 ? [`${count(steps, 'step')} of the song since`] : []),
    ...(url ? [] : ['the file is no longer kept: make it again']),
  ]
  const [isLong, setLong] = useState(false)
  const short = [...made, ...(report ? shortReport(report) : []), `${(bytes / 1e6).toFixed(1)} MB`]
  return (
    <Box color="ink.soft" fontSize="13px">
      {short.join(' · ')}{' '}
      {report ? (
        <SmallButton aria-expanded={isLong} onClick={() => setLong(!isLong)} textDecoration="underline" fontSize="13px">
          {isLong ? 'Fewer figures' : 'More figures'}
        </SmallButton>
      ) : null}
      {report && isLong ? <Box>{longReport(report).join(' · ')}</Box> : null}
      {report
        ? warningsOf(report).map(warning => (
            <Text key={warning} color="warn">
              {warning}
            </Text>
          ))
        : null}
    </Box>
  )
}

/** How many steps the song is away from where it was, done or taken back. */
function useStepsSince(position: number): number {
  return useSongStore(({ history }) => {
    if (!history) return 0
    const after = history.done.filter(step => step.id > position).length
    return after > 0 ? after : history.undone.filter(step => step.id <= position).length
  })
}
