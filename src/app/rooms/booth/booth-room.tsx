/** Booth: am I ready; now sing. */
import { Box, Flex, Grid, NativeSelect, Text } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import { Circle, Square } from 'lucide-react'
import { barAtFrame } from '../../../core/beat/grid'
import type { LayerId } from '../../../core/song/schema'
import { isTyping } from '../../frame/use-song-keys'
import { count } from '../../shared/format'
import { EmptyState, Notice, Pill, PrimaryButton } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { focusedLine, rangeOf, useView } from '../../song/view-store'
import { HeadphoneCard } from './headphone-card'
import { InputCard } from './input-card'
import { checkReady, minutesLeft, NOT_READY_TEXT } from './readiness'
import { toggleRecording } from './recorder'
import { useRecorder, type NotReady } from './recorder-store'
import { TakeList } from './take-list'
import { VoiceMeter } from './voice-meter'
import { WordsStage } from './words-stage'

export function BoothRoom() {
  const song = useSong(current => current)
  const { selection, layerId, looping, countInBars } = useView()
  const { phase, problem, input } = useRecorder()
  const [ready, setReady] = useState<NotReady | null>(null)
  const [minutes, setMinutes] = useState<number | null>(null)
  const range = rangeOf(song, selection)
  const line = focusedLine(song, selection)
  useEffect(() => {
    const look = () => {
      void checkReady().then(result => setReady(result.ok ? null : result.reason))
      void minutesLeft().then(setMinutes)
    }
    look()
    const timer = setInterval(look, 700)
    return () => clearInterval(timer)
  }, [])
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.repeat) return
      if (event.key === 'r' || (event.key === 'Escape' && useRecorder.getState().phase === 'rolling')) toggleRecording()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
  if (song.layers.length === 0) return <EmptyState text="There is no layer to sing on yet. Lay out the vocal template in the Beat room: lead, doubles, harmonies and ad-libs, named and placed." />
  const busy = phase !== 'idle'
  const bars = `bars ${barAtFrame(song.beat.grid, range.startFrame)} to ${barAtFrame(song.beat.grid, range.endFrame - 480)}`
  const where = selection.kind === 'song' ? 'Whole song' : selection.kind === 'section' ? song.sections.find(section => section.id === selection.sectionId)?.name : line ? `${line.section.name}, line ${line.number}${selection.lineIds.length > 1 ? ` and ${selection.lineIds.length - 1} more` : ''}` : 'Whole song'
  return (
    <Flex direction="column" gap={3} minH="100%">
      <Flex gap={2} align="center" wrap="wrap">
        <NativeSelect.Root size="sm" width="150px" disabled={busy}>
          <NativeSelect.Field aria-label="Layer to sing on" bg="card" borderColor="brand" borderRadius="full" fontWeight={600} value={layerId ?? ''} onChange={event => useView.setState({ layerId: event.target.value as LayerId })}>
            {layerId === null ? <option value="">Choose a layer</option> : null}
            {song.layers.map(layer => (
              <option key={layer.id} value={layer.id}>
                {layer.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Box borderWidth="1px" borderColor="seamline" bg="card" borderRadius="full" px={4} py="5px" fontWeight={500}>
          {where} · {bars}
        </Box>
        <Pill chosen={looping} disabled={busy} onClick={() => useView.setState({ looping: !looping })}>
          {looping ? 'Looping, a take each pass' : 'Once'}
        </Pill>
        <Pill disabled={busy} onClick={() => useView.setState({ countInBars: ((countInBars + 1) % 3) as 0 | 1 | 2 })}>
          {countInBars === 0 ? 'No count-in' : `Count in ${count(countInBars, 'bar')}`}
        </Pill>
        <Box ml="auto">
          {phase === 'rolling' || phase === 'finishing' ? (
            <PrimaryButton bg="record" color="record.ink" onClick={toggleRecording} disabled={phase === 'finishing'}>
              <Square size={15} fill="currentColor" aria-hidden /> {phase === 'finishing' ? 'Keeping the take …' : 'Stop'}
            </PrimaryButton>
          ) : (
            <PrimaryButton onClick={toggleRecording} disabled={busy || ready !== null} aria-describedby="will-it-record">
              <Circle size={14} fill="currentColor" aria-hidden /> {phase === 'preparing' ? 'The singer takes a breath …' : 'Record'}
            </PrimaryButton>
          )}
        </Box>
      </Flex>
      <Box id="will-it-record" role="status" color={ready ? 'warn' : 'ink.soft'} mt="-4px">
        {ready ? `${NOT_READY_TEXT[ready][0]} ${NOT_READY_TEXT[ready][1]}` : `Will record${minutes === null ? '' : ` · room for ${minutes > 600 ? 'more than 10 hours' : `${Math.floor(minutes)} minutes`}`}`}
      </Box>
      {problem && problem !== ready ? <Notice tone="warn" title={NOT_READY_TEXT[problem][0]}>{NOT_READY_TEXT[problem][1]}</Notice> : null}
      <Grid templateColumns="minmax(0, 1fr) 236px" gap={4} flex="1 1 auto" minH="300px">
        <WordsStage />
        <VoiceMeter />
      </Grid>
      <Grid templateColumns="minmax(0, 1fr) minmax(0, 1fr)" gap={4}>
        <InputCard busy={busy} />
        <HeadphoneCard busy={busy} />
      </Grid>
      <TakeList range={range} />
      {input.kind === 'singer' ? (
        <Text color="ink.soft" fontSize="12px">
          The practice singer stands in for a voice: it sings the sheet over the same path as a microphone, with a simulated round trip.
        </Text>
      ) : null}
    </Flex>
  )
}
