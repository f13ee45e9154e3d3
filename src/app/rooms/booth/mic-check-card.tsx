/** The mic check: the room, the loudest line, the distance; each a few seconds of listening, each skippable. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { GOOD_PEAK_DBFS, type RoomCheck } from '../../../core/voice/mic-check'
import { overhear } from '../../../engine/capture-session'
import { runJob } from '../../../workers/run-job'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { play, stopPlaying, useLive } from '../../song/live'
import { currentSong } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'
import { listenIn } from '../../recording/listen-in'

type Step = 'room' | 'loudest' | 'distance'

const STEPS: { step: Step; name: string; ask: string; seconds: number }[] = [
  { step: 'room', name: 'The quiet room', ask: 'Be still for three seconds.', seconds: 3 },
  { step: 'loudest', name: 'The loudest line', ask: 'Sing your loudest line with the beat.', seconds: 8 },
  { step: 'distance', name: 'The distance', ask: 'Say: “Stars and stops, pick a pocket, past the pier.”', seconds: 5 },
]

export function MicCheckCard({ busy }: { busy: boolean }) {
  const [results, setResults] = useState<Partial<Record<Step, RoomCheck | 'no answer'>>>({})
  const [listening, setListening] = useState<Step | null>(null)
  const ready = useLive(state => state.engine) !== null
  const listen = async ({ step, seconds }: (typeof STEPS)[number]) => {
    const { engine } = useLive.getState()
    if (!engine) return
    setListening(step)
    const result = await listenIn(async () => {
      if (step === 'loudest') await play(rangeOf(currentSong(), useView.getState().selection).startFrame)
      else engine.stop()
      const from = Math.round((engine.context.currentTime + 0.1) * SAMPLE_RATE_HZ)
      const captured = await overhear(engine, from, seconds * SAMPLE_RATE_HZ).catch(() => null)
      if (step === 'loudest') stopPlaying()
      if (!captured) return 'no answer' as const
      return runJob('checkRoom', { captured })
    })
    const heard = result === 'no answer' ? result : result?.kind === 'done' ? result.value : null
    if (heard) setResults(before => ({ ...before, [step]: heard }))
    setListening(null)
  }
  return (
    <Card>
      <CardTitle>Mic check</CardTitle>
      <Flex direction="column" gap={2} mt={2}>
        {STEPS.map(entry => {
          const { step, name, ask } = entry
          const result = results[step]
          const verdict = result === 'no answer' ? NO_ANSWER : result ? VERDICTS[step](result) : null
          return (
            <Flex key={step} gap={3} align="start">
              <Pill disabled={busy || !ready || listening !== null} onClick={() => void listen(entry)} flex="0 0 150px">
                {listening === step ? 'Listening …' : name}
              </Pill>
              <Box flex="1" role="status" pt="5px" fontSize="13px" color={verdict ? (verdict.good ? 'ok' : 'warn') : 'ink.soft'}>
                {listening === step ? ask : verdict ? `${verdict.good ? 'Good: ' : ''}${verdict.text}` : ask}
              </Box>
            </Flex>
          )
        })}
      </Flex>
      <Text color="ink.soft" fontSize="12px" mt={2}>
        Nothing here is kept, and every step can be left out.
      </Text>
    </Card>
  )
}

const QUIET_ROOM_DBFS = -55
const AGAINST_HUM = 'Try another socket, or move the cable away from power supplies.'
const STINGING_ESSES_DECIBELS = -3
const LEAST_UNBROKEN_SECONDS = 0.5
const NO_ANSWER = { good: false, text: 'the microphone gave no answer in time. Try once more; if it stays silent, choose it again above.' }

const VERDICTS: Record<Step, (check: RoomCheck) => { good: boolean; text: string }> = {
  room: ({ floorDbfs, hum, voiceHeard, unbrokenSeconds }) => {
    if (unbrokenSeconds < LEAST_UNBROKEN_SECONDS)
      return { good: false, text: 'the sound broke off again and again. Close what keeps the machine busy, and try once more.' }
    if (!Number.isFinite(floorDbfs)) return { good: false, text: 'digital silence. Check the microphone’s switch and the chosen channel.' }
    if (voiceHeard) return { good: false, text: 'a voice was heard. Be still, and try once more.' }
    const floor = `the room is at ${floorDbfs.toFixed(0)} dBFS`
    if (hum)
      return {
        good: false,
        text: `${floor}, with mains hum at ${hum.mainsHz} Hz (${hum.levelDbfs.toFixed(0)} dBFS). ${AGAINST_HUM}`,
      }
    return floorDbfs > QUIET_ROOM_DBFS
      ? { good: false, text: `${floor}: switch off fans, close the window, come closer to the microphone.` }
      : { good: true, text: `${floor}, no hum.` }
  },
  loudest: ({ peakDbfs, truePeakDbtp, clips }) => {
    const peaks = `loudest line peaks at ${peakDbfs.toFixed(1)} dBFS (true peak ${truePeakDbtp.toFixed(1)})`
    const aim = (GOOD_PEAK_DBFS.from + GOOD_PEAK_DBFS.to) / 2
    if (clips > 0)
      return {
        good: false,
        text: `${peaks}, clipped ${clips} ${clips === 1 ? 'time' : 'times'}: turn the input down about ${Math.max(6, Math.ceil(peakDbfs - aim))} dB.`,
      }
    if (peakDbfs > GOOD_PEAK_DBFS.to) return { good: false, text: `${peaks}: turn the input down about ${Math.ceil(peakDbfs - aim)} dB.` }
    if (peakDbfs < GOOD_PEAK_DBFS.from) return { good: false, text: `${peaks}: turn the input up about ${Math.ceil(aim - peakDbfs)} dB.` }
    return { good: true, text: `${peaks}.` }
  },
  distance: ({ essesDecibels, pops }) => {
    if (essesDecibels === null) return { good: false, text: 'no voice was heard.' }
    const heard = [
      pops > 0 ? `${pops} ${pops === 1 ? 'pop' : 'pops'} heard: sing a little past the microphone, or put a screen before it` : null,
      essesDecibels > STINGING_ESSES_DECIBELS ? `esses sting (${essesDecibels.toFixed(0)} dB against the voice): turn the microphone a little aside` : null,
    ].filter(entry => entry !== null)
    return heard.length > 0 ? { good: false, text: `${heard.join('; ')}.` } : { good: true, text: 'no pops, soft esses.' }
  },
}
