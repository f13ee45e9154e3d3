/** A line that no take gets right: marked with what is wrong, sung once more in the Booth, and back. */
import { Box, Flex, Input } from '@chakra-ui/react'
import { useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import { markSingAgain } from '../../../core/comp/put-aside'
import type { Layer, LineId, Song } from '../../../core/song/schema'
import { lineTitle, requirePlacedLine, requireTake } from '../../../core/song/select'
import { placeWords } from '../../../core/song/words'
import { factsOfLine } from '../../../core/voice/line-facts'
import { Card, KeyCap, Pill, PrimaryButton } from '../../shared/parts'
import { edit } from '../../song/song-store'
import { analysedTake, sungBy } from '../../song/voices'
import { sendToBooth } from './send-to-booth'
import type { Bench } from './use-bench'

/** The mark on the line, if it has one, with the way to the Booth. */
export function SingAgainMark({ song, layer, lineId }: { song: Song; layer: Layer; lineId: LineId }) {
  const navigate = useNavigate()
  const { songId } = useParams()
  const mark = layer.singAgain.find(entry => entry.lineId === lineId)
  if (!mark) return null
  return (
    <Flex align="center" gap={2} role="status" bg="card" borderLeftWidth="3px" borderColor="warn" borderRadius="8px" px={3} py={1} mb={2}>
      <Box flex="1" minW={0} truncate>
        <Box as="span" fontWeight={600} color="warn">
          Sing again
        </Box>
        {mark.note ? `: ${mark.note}` : ''}
      </Box>
      <Pill size="xs" onClick={() => sendToBooth(song, layer.id, lineId, room => void navigate(`/song/${songId}/${room}`))}>
        Sing it now
      </Pill>
      <Pill size="xs" onClick={() => edit('it is sung well now', current => markSingAgain(current, { layerId: layer.id, lineId, note: null }))}>
        It is well now <KeyCap>M</KeyCap>
      </Pill>
    </Flex>
  )
}

export function SingAgainForm({ bench: { song, layer, stretch, focused }, onDone }: { bench: Bench; onDone: () => void }) {
  const lineId = stretch.lineIds[0]!
  const line = requirePlacedLine(song, lineId)
  const [note, setNote] = useState(() => (focused ? suggestedNote(song, lineId, focused.takeId) : ''))
  const mark = () => {
    edit(`mark ‘${lineTitle(line).slice(0, 24)}’ to sing again`, current => markSingAgain(current, { layerId: layer.id, lineId, note }))
    onDone()
  }
  return (
    <Card mt={3} py={3} role="group" aria-label="Sing again">
      <Flex gap={3} align="center">
        <Box flexShrink={0}>What is wrong with every take?</Box>
        <Input
          aria-label="What is wrong"
          autoFocus
          size="sm"
          maxW="320px"
          bg="card"
          borderColor="seamline"
          borderRadius="full"
          value={note}
          onChange={event => setNote(event.target.value)}
          onKeyDown={event => {
            event.stopPropagation()
            if (event.key === 'Enter') mark()
            if (event.key === 'Escape') onDone()
          }}
        />
        <PrimaryButton size="sm" onClick={mark}>
          Mark the line
        </PrimaryButton>
        <Pill onClick={onDone}>Leave it</Pill>
      </Flex>
    </Card>
  )
}

/** "flat on “harbour”": the word of a take that is furthest off, if one is. */
function suggestedNote(song: Song, lineId: LineId, takeId: Bench['rows'][number]['takeId']): string {
  const analysed = analysedTake(requireTake(song, takeId))
  const line = requirePlacedLine(song, lineId)
  if (!analysed) return ''
  const off = placeWords(line, sungBy(analysed)).map(word => ({
    word: word.word,
    cents: factsOfLine(analysed.analysis, analysed.originFrame, word, song.beat).centsOff ?? 0,
  }))
  const worst = off.sort((a, b) => Math.abs(b.cents) - Math.abs(a.cents))[0]
  return worst && Math.abs(worst.cents) > 18 ? `${worst.cents < 0 ? 'flat' : 'sharp'} on “${worst.word.replace(/[^\p{L}\p{N}'’]/gu, '')}”` : ''
}
