/** On time: how far takes are moved, how that is known, measuring it, and clapping to see that it is right. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { frameOfBar, frameOfBeat } from '../../../core/beat/grid'
import { CLAPS, type ClapCheck } from '../../../core/latency/clap-check'
import { overhear } from '../../../engine/capture-session'
import { runJob } from '../../../workers/run-job'
import { count, formatAgo, formatMilliseconds } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Notice, Pill } from '../../shared/parts'
import { useLive } from '../../song/live'
import { currentSong, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { listenIn } from '../../recording/listen-in'
import { useRecorder } from '../../recording/recorder-store'
import { useLeaks } from '../../recording/take-facts'
import { knownRoundTrip, measure, placeTakesAgain, takesToPlaceAgain, typeRoundTrip, useRoundTrip, type KnownRoundTrip } from '../../recording/round-trip'

const FAILURES = {
  silent: ['Nothing came in.', 'Check that the right microphone is open.'],
  'not-heard': [
    'The sweeps were not heard.',
    'Hold one cup of the headphones right at the microphone, turn the headphones up, and measure again. No number is guessed from noise.',
  ],
  clipped: ['The sweeps came in too loud.', 'Turn the input or the headphones down and measure again.'],
  unsteady: ['The sweeps came back at different delays.', 'Something on this machine is busy or the audio device restarted. Measure again.'],
  stopped: ['The measurement was interrupted.', 'Measure again.'],
} as const

function howKnown({ source, measuredAt }: KnownRoundTrip): string {
  switch (source) {
    case 'measured':
      return `measured ${formatAgo(measuredAt!)}`
    case 'typed':
      return 'as typed'
    case 'remembered':
      return `estimated from last time (${formatAgo(measuredAt!)})`
    case 'simulated':
      return 'the simulated interface’s own round trip'
    default:
      return 'estimated from the browser’s figures'
  }
}

export function OnTimeCard({ busy }: { busy: boolean }) {
  const { measuring, failure, here } = useRoundTrip()
  const { input } = useRecorder()
  const engine = useLive(state => state.engine)
  useSong(song => song.takes)
  useLeaks(state => state.witnesses)
  const open = (input.kind === 'microphone' || input.kind === 'singer') && engine
  const known = open ? knownRoundTrip(engine) : null
  const waiting = takesToPlaceAgain().length
  return (
    <Card>
      <CardTitle>On time</CardTitle>
      {known && engine ? (
        <>
          <Text mt={1}>
            Takes move <Box as="strong">{formatMilliseconds(known.frames)}</Box> earlier, {howKnown(known)}
            {known.source === 'measured' && here ? `, ±${((1_000 * here.spreadFrames) / SAMPLE_RATE_HZ).toFixed(2)} ms` : ''}.
          </Text>
          {known.source === 'estimated' || known.source === 'remembered' ? (
            <Text color="warn" fontSize="12px">
              {known.source === 'estimated'
                ? 'Browsers are often wrong about this.'
                : 'The devices were opened anew since: the true value may have moved by 20 ms or more.'}{' '}
              Hold a headphone cup to the microphone and measure: three seconds.
            </Text>
          ) : null}
          <Flex gap={2} mt={2} wrap="wrap" align="center">
            <Pill disabled={busy || measuring} onClick={() => void measure()}>
              {measuring ? 'Listening to the sweeps …' : known.source === 'measured' ? 'Measure again' : 'Measure'}
            </Pill>
            <NumberField
              label="Round trip"
              value={(1_000 * known.frames) / SAMPLE_RATE_HZ}
              min={0}
              max={1_000}
              unit="ms"
              onKeep={milliseconds => void typeRoundTrip(milliseconds)}
            />
            <ClapCheckButton busy={busy || measuring} />
          </Flex>
          {failure ? (
            <Box mt={2}>
              <Notice tone="warn" title={FAILURES[failure][0]}>
                {FAILURES[failure][1]}
              </Notice>
            </Box>
          ) : null}
          {waiting > 0 ? (
            <Box mt={2}>
              <Notice tone="plain" title={`${count(waiting, 'take')} of this session ${waiting === 1 ? 'was' : 'were'} placed by an estimate.`}>
                <Pill mt={1} onClick={placeTakesAgain}>
                  Place {waiting === 1 ? 'it' : 'them'} by the measurement
                </Pill>
              </Notice>
            </Box>
          ) : null}
        </>
      ) : (
        <Text color="ink.soft" mt={1}>
          Once a microphone is open, the app says how late it is and takes that off every take.
        </Text>
      )}
    </Card>
  )
}

type Clapping = { kind: 'idle' } | { kind: 'listening' } | { kind: 'done'; result: ClapCheck | null }

/** Eight clicks after a bar of count-in; the claps are only listened to. */
function ClapCheckButton({ busy }: { busy: boolean }) {
  const [state, setState] = useState<Clapping>({ kind: 'idle' })
  const clap = async () => {
    const { engine } = useLive.getState()
    if (!engine) return
    setState({ kind: 'listening' })
    const { grid } = currentSong().beat
    const before = useView.getState()
    const result = await listenIn(async () => {
      useView.setState({ view: { kind: 'only', beat: false, layerIds: [] }, clicking: true })
      const firstBeat = grid.beatsPerBar
      const endFrame = frameOfBeat(grid, firstBeat + CLAPS) + SAMPLE_RATE_HZ / 4
      const started = engine.next('started')
      if (!(await engine.play({ fromFrame: frameOfBar(grid, 1), loop: null, silentBeforeFrame: null, stopAtFrame: endFrame }))) return null
      const { contextFrame, songFrame } = await started
      const { frames } = knownRoundTrip(engine)
      const startFrame = frameOfBeat(grid, firstBeat) - SAMPLE_RATE_HZ / 4
      const captured = await overhear(engine, contextFrame + (startFrame - songFrame) + frames, endFrame - startFrame).catch(() => null)
      if (!captured) return null
      return runJob('checkClaps', { captured, clickFrames: Array.from({ length: CLAPS }, (_, i) => frameOfBeat(grid, firstBeat + i) - startFrame) })
    })
    useView.setState({ view: before.view, clicking: before.clicking })
    setState({ kind: 'done', result: result?.kind === 'done' ? result.value : null })
  }
  return (
    <>
      <Pill disabled={busy || state.kind === 'listening'} onClick={() => void clap()}>
        {state.kind === 'listening' ? 'Clap with the click …' : 'Clap check'}
      </Pill>
      {state.kind === 'done' ? (
        <Box flexBasis="100%" role="status">
          {state.result ? (
            <ClapResult {...state.result} />
          ) : (
            <Text color="warn">Too few claps were heard. Clap with each of the eight clicks after the first bar.</Text>
          )}
        </Box>
      ) : null}
    </>
  )
}

const VERDICTS = {
  'on-time': 'On time.',
  system: 'All claps are off by about the same: that is the system, not you. Measure the round trip.',
  singer: 'The claps scatter more than a system does: that is the clapping. Try once more.',
} as const

function ClapResult({ offMilliseconds, meanMilliseconds, spreadMilliseconds, verdict }: ClapCheck) {
  return (
    <>
      <Box
        position="relative"
        height="22px"
        bg="sunken"
        borderRadius="8px"
        role="img"
        aria-label={`Claps against the click: ${offMilliseconds.map(off => Math.round(off)).join(', ')} ms`}
      >
        <Box position="absolute" left="50%" top={0} bottom={0} borderLeftWidth="2px" borderColor="ink" />
        {offMilliseconds.map((off, i) => (
          <Box
            key={i}
            position="absolute"
            top="5px"
            style={{ left: `calc(${50 + off / 2}% - 6px)` }}
            boxSize="12px"
            borderRadius="full"
            bg="brand"
            opacity={0.6}
          />
        ))}
      </Box>
      <Text fontSize="12px">
        {offMilliseconds.length} of {CLAPS} claps, {Math.abs(meanMilliseconds).toFixed(0)} ms {meanMilliseconds < 0 ? 'early' : 'late'} on average, ±
        {spreadMilliseconds.toFixed(0)} ms. {VERDICTS[verdict]}
      </Text>
    </>
  )
}
