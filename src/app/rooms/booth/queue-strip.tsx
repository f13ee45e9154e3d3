/** Sing what is missing: which stretch of the plan is sung now, what is left, and on which keys it goes on. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { lineState, lineTitle, placedLines } from '../../../core/song/select'
import { count } from '../../shared/format'
import { KeyCap, Pill } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { WriteGuide } from './write-guide'
import { backInQueue, endQueue, leaveOut, nextInQueue, setQueueBy, singLeftOut, stillToSing, useQueue } from '../../recording/queue'

export function QueueStrip({ busy }: { busy: boolean }) {
  const song = useSong(current => current)
  const queue = useQueue()
  if (!queue.isOn) return null
  const left = stillToSing(song, queue)
  const { now } = queue
  const layer = now && song.layers.find(({ id }) => id === now.layerId)
  const lines = now ? placedLines(song).filter(({ line }) => now.lineIds.includes(line.id)) : []
  const isSung = layer !== null && layer !== undefined && lines.length > 0 && lines.every(line => lineState(song, layer, line) !== 'missing')
  const others = left.filter(entry => !now || entry.layerId !== now.layerId || entry.lines[0]!.line.id !== now.lineIds[0]).length
  return (
    <Flex
      as="section"
      aria-label="Sing what is missing"
      bg="card"
      borderRadius="card"
      boxShadow="card"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="brand"
      px={4}
      py={2}
      gap={3}
      align="center"
      wrap="wrap"
    >
      <Box flex="1 1 260px" minW={0}>
        <Text fontWeight={600} truncate role="status">
          {layer && lines.length > 0
            ? `${layer.name}: ${lines.length === 1 ? lineTitle(lines[0]!) : `${lines[0]!.section.name}, ${count(lines.length, 'line')}`}`
            : queue.leftOut.size > 0
              ? 'Nothing more in this round'
              : 'All that the plan wants is sung'}
        </Text>
        <Text color="ink.soft" fontSize="13px">
          {isSung ? 'Sung. ' : ''}
          {others > 0 ? `${others} more after this` : layer ? (isSung ? 'That was the last one.' : 'The last one.') : ''}
          {queue.leftOut.size > 0 ? `${others > 0 ? ', ' : ' '}${count(queue.leftOut.size, 'line')} left out` : ''}
        </Text>
      </Box>
      <Flex gap="6px" role="group" aria-label="In one go">
        <Pill size="xs" px={3} chosen={queue.by === 'line'} disabled={busy} onClick={() => setQueueBy('line')}>
          line by line
        </Pill>
        <Pill size="xs" px={3} chosen={queue.by === 'section'} disabled={busy} onClick={() => setQueueBy('section')}>
          whole sections
        </Pill>
      </Flex>
      <Flex gap={2} align="center">
        <Pill size="sm" disabled={busy || others === 0} onClick={nextInQueue}>
          Next <KeyCap>N</KeyCap>
        </Pill>
        <Pill size="sm" disabled={busy || queue.before.length === 0} onClick={backInQueue}>
          Back <KeyCap>B</KeyCap>
        </Pill>
        <Pill size="sm" disabled={busy || !layer} onClick={leaveOut}>
          Leave out <KeyCap>X</KeyCap>
        </Pill>
        {!layer && queue.leftOut.size > 0 ? (
          <Pill size="sm" disabled={busy} onClick={singLeftOut}>
            Sing those left out
          </Pill>
        ) : null}
        <Pill size="sm" disabled={busy} onClick={endQueue}>
          End
        </Pill>
      </Flex>
      {layer && lines.length > 0 ? <WriteGuide song={song} layer={layer} lines={lines} /> : null}
    </Flex>
  )
}
