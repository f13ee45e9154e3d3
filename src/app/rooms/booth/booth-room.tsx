/** Booth: am I ready; now sing. */
import { Box, Flex, Grid, VisuallyHidden } from '@chakra-ui/react'
import { useEffect, useRef } from 'react'
import { Circle, Square } from 'lucide-react'
import { NoLayers } from '../../shared/no-layers'
import { Notice, PrimaryButton } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { Checklist, obstacleIn, useChecks } from './checklist'
import { HeadphoneCard } from './headphone-card'
import { followHeadphoneMix } from '../../recording/headphone-mix'
import { InputCard } from './input-card'
import { openRememberedInput } from '../../recording/inputs'
import { MicCheckCard } from './mic-check-card'
import { OnTimeCard } from './on-time-card'
import { recordedRange } from '../../recording/record-range'
import { QueueStrip } from './queue-strip'
import { RecordSentence } from './record-sentence'
import type { Obstacle } from '../../recording/readiness'
import { toggleRecording } from '../../recording/recorder'
import { useRecorder, type Stopped } from '../../recording/recorder-store'
import { TakeList } from './take-list'
import { useBoothKeys } from './use-booth-keys'
import { VoiceMeter } from './voice-meter'
import { WordsStage } from './words-stage'

const STOPPED_TEXT: Record<Stopped, [what: string, doThis: string]> = {
  'beside-range': ['That ended before the stretch was sung.', 'What came in is in the bin below, in case it is wanted. Record again when you are ready.'],
  'no-answer': [
    'Something gave no answer: the recording did not begin, or ended.',
    'What came in by then is kept. Try again; if it happens again, open the microphone anew or reload the page.',
  ],
  asleep: ['The browser lets no sound start yet.', 'Click anywhere in the page, then record.'],
  'storage-full': [
    'The disk was full: recording stopped.',
    'Everything up to then is kept, and is a take as soon as there is room for it. Free some disk space before the next one.',
  ],
  'capture-failed': ['Recording stopped by itself.', 'Everything up to then is a take.'],
  'input-gone-in-take': ['The microphone was unplugged: recording stopped.', 'Everything up to then is a take. Plug it in and open it again.'],
  'suspended-in-take': ['The machine paused the sound: recording stopped.', 'Everything up to then is a take. Measure the round trip before the next one.'],
}

export function BoothRoom() {
  const hasLayers = useSong(song => song.layers.length > 0)
  const recording = useRecorder(state => state.phase !== 'idle')
  useEffect(followHeadphoneMix, [])
  useEffect(() => void openRememberedInput(), [])
  useBoothKeys()
  if (!hasLayers && !recording) return <NoLayers why="What is sung lies on a layer." />
  return <Booth />
}

function Booth() {
  const { phase, stopped, backlogSeconds } = useRecorder()
  // What these say is worked out from the stores that are subscribed to here.
  useSong(song => song)
  useView()
  const checks = useChecks()
  const range = recordedRange()
  const busy = phase !== 'idle'
  const stage = useRef<HTMLDivElement>(null)
  // Whoever set something further down and pressed R sings from the words.
  const singing = phase === 'waiting' || phase === 'rolling'
  useEffect(() => {
    if (singing) stage.current?.scrollIntoView({ block: 'end' })
  }, [singing])
  return (
    <Flex direction="column" gap={3} minH="100%">
      {/* The words are what is read here; by ear it is told which room this is. */}
      <VisuallyHidden asChild>
        <h1>Booth</h1>
      </VisuallyHidden>
      <QueueStrip busy={busy} />
      <Settings range={range} busy={busy} ready={checks.length > 0 && MAY_BEGIN.has(obstacleIn(checks))} />
      <Checklist checks={checks} />
      {stopped ? (
        <Notice tone="warn" title={STOPPED_TEXT[stopped][0]}>
          {STOPPED_TEXT[stopped][1]}
        </Notice>
      ) : null}
      {backlogSeconds > 0 ? (
        <Notice tone="warn" title={`The disk is slow: ${backlogSeconds.toFixed(1)} s wait to be written.`}>
          Nothing is lost yet. Close what else uses the disk; at 2.7 s sound would be replaced by silence.
        </Notice>
      ) : null}
      <Grid ref={stage} templateColumns={{ base: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 236px' }} gap={4} flex="1 1 auto" minH="320px">
        <WordsStage />
        <VoiceMeter />
      </Grid>
      <TakeList range={range} busy={busy} />
      <Grid templateColumns={{ base: 'minmax(0, 1fr)', xl: 'minmax(0, 1fr) minmax(0, 1fr)' }} gap={4} alignItems="start">
        <Flex direction="column" gap={4}>
          <InputCard busy={busy} />
          <OnTimeCard busy={busy} />
          <MicCheckCard busy={busy} />
        </Flex>
        <HeadphoneCard />
      </Grid>
    </Flex>
  )
}

/** What recording itself sees to: with nothing to sing into, it asks for the microphone. */
const MAY_BEGIN = new Set<Obstacle | null>([null, 'no-input'])

function Settings({ range, busy, ready }: { range: { startFrame: number; endFrame: number }; busy: boolean; ready: boolean }) {
  const phase = useRecorder(state => state.phase)
  return (
    <Flex gap={4} align="start">
      <RecordSentence range={range} busy={busy} />
      <Box>
        {phase === 'rolling' || phase === 'waiting' || phase === 'finishing' || phase === 'preparing' ? (
          <PrimaryButton bg="record" color="record.ink" onClick={toggleRecording} disabled={phase === 'finishing'}>
            <Square size={15} fill="currentColor" aria-hidden />{' '}
            {phase === 'finishing' ? 'Keeping the take …' : phase === 'preparing' ? 'Getting ready …' : 'Stop'}
          </PrimaryButton>
        ) : (
          <PrimaryButton onClick={toggleRecording} disabled={busy || !ready} aria-describedby="will-it-record">
            <Circle size={14} fill="currentColor" aria-hidden /> Record
          </PrimaryButton>
        )}
      </Box>
    </Flex>
  )
}
