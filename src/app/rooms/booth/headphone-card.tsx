/** What is heard while singing, how loud, and how the singer hears themself. */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import type { LayerId, Song } from '../../../core/song/schema'
import { MOST_TUNER_DELAY_FRAMES } from '../../../core/tune/live-tuner'
import { formatKey } from '../../shared/format'
import { Card, CardTitle, KeyCap, Notice, Pill } from '../../shared/parts'
import { useLive } from '../../song/live'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { BoothSlider } from './booth-slider'
import { setBooth, useBoothSettings, type BoothSettings } from '../../recording/booth-settings'
import { confirmHeadphones, headphonesConfirmed, LATE_MILLISECONDS } from '../../recording/monitor'
import { useRecorder } from '../../recording/recorder-store'
import { knownRoundTrip, useRoundTrip } from '../../recording/round-trip'

const TOO_LATE = `Above 15 ms that sounds like an echo of yourself: better hear yourself by the interface (look for a “direct” or “monitor”
  switch or knob on it), or take one cup off.`

const SURROUNDS: { surround: BoothSettings['surround']; name: string }[] = [
  { surround: 'beat', name: 'Beat' },
  { surround: 'comp', name: 'and this layer' },
  { surround: 'lead', name: 'and the lead' },
  { surround: 'stack', name: 'and all layers' },
]
const LEVELS: { part: Exclude<keyof BoothSettings['decibels'], 'me'>; name: string; label: string }[] = [
  { part: 'beat', name: 'Beat', label: 'Beat in the headphones' },
  { part: 'comp', name: 'This layer', label: 'This layer in the headphones' },
  { part: 'others', name: 'Other layers', label: 'Other layers in the headphones' },
  { part: 'guide', name: 'Part', label: 'The part to sing to, in the headphones' },
]
const GUIDES: { guide: BoothSettings['guide']; name: string }[] = [
  { guide: 'voice', name: 'in the lead’s voice' },
  { guide: 'tone', name: 'as a tone' },
  { guide: 'off', name: 'off' },
]
const CLICKS: Record<BoothSettings['click'], string> = { always: 'on', 'count-in': 'in the count-in', never: 'off' }
const NEXT_CLICK: Record<BoothSettings['click'], BoothSettings['click']> = { 'count-in': 'always', always: 'never', never: 'count-in' }

export function HeadphoneCard() {
  const { surround, guide, click, decibels, accentDecibels } = useBoothSettings()
  const layerId = useView(state => state.layerId)
  const hasPart = useSong(song => song.layers.some(layer => layer.id === layerId && layer.part.length > 0))
  const clickDecibels = useView(state => state.clickDecibels)
  return (
    <Card>
      <CardTitle>In your headphones</CardTitle>
      <Flex gap={1} mt={2} wrap="wrap" align="center" role="group" aria-label="What sounds while recording">
        {SURROUNDS.map(({ surround: choice, name }) => (
          <Pill key={choice} px={3} chosen={surround === choice} onClick={() => setBooth({ surround: choice })}>
            {name}
          </Pill>
        ))}
        <KeyCap>H</KeyCap>
      </Flex>
      <Flex direction="column" mt={2} gap="2px">
        {LEVELS.filter(({ part }) => part !== 'guide' || hasPart).map(({ part, name, label }) => (
          <BoothSlider
            key={part}
            label={label}
            showLabel={name}
            value={decibels[part]}
            min={-60}
            max={12}
            step={0.5}
            unit="dB"
            change={value => setBooth({ decibels: { ...useBoothSettings.getState().decibels, [part]: value } })}
          />
        ))}
        <BoothSlider
          label="Click in the headphones"
          showLabel="Click"
          value={clickDecibels}
          min={-40}
          max={0}
          step={0.5}
          unit="dB"
          change={value => useView.setState({ clickDecibels: value })}
        />
      </Flex>
      {hasPart ? (
        <Flex gap={1} mt={1} wrap="wrap" align="center" role="group" aria-label="How the part to sing to sounds">
          <Text mr={1}>The part</Text>
          {GUIDES.map(({ guide: choice, name }) => (
            <Pill key={choice} size="xs" px={3} chosen={guide === choice} onClick={() => setBooth({ guide: choice })}>
              {name}
            </Pill>
          ))}
          <Flex gap={1} title="The part softer, louder">
            <KeyCap>,</KeyCap>
            <KeyCap>.</KeyCap>
          </Flex>
        </Flex>
      ) : null}
      <Flex gap={2} mt={1} align="center" wrap="wrap">
        <Pill onClick={() => setBooth({ click: NEXT_CLICK[click] })}>Click {CLICKS[click]}</Pill>
        <Pill onClick={() => setBooth({ accentDecibels: accentDecibels > 0 ? 0 : 3 })} chosen={accentDecibels > 0} title="Beat one louder than the others">
          Accent on one
        </Pill>
      </Flex>
      <Me />
    </Card>
  )
}

const WAYS: { hearMe: BoothSettings['hearMe']; name: string; means: string }[] = [
  { hearMe: 'direct', name: 'by the interface', means: 'Your interface sends your voice to your headphones: no delay. The app adds nothing.' },
  { hearMe: 'app', name: 'by the app', means: '' },
  { hearMe: 'off', name: 'not at all', means: 'Take one cup off and hear yourself in the room.' },
]

function Me() {
  const { hearMe, decibels, room, echo, compress, tune } = useBoothSettings()
  const key = useSong(song => song.beat.key)
  const layerId = useView(state => state.layerId)
  const toWhat = useSong(song => toWhatOf(song, layerId))
  const howled = useRecorder(state => state.howled)
  const confirmed = headphonesConfirmed()
  const means = WAYS.find(way => way.hearMe === hearMe)!.means
  return (
    <Box mt={3} pt={3} borderTopWidth="1px" borderColor="seamline">
      <Flex gap={1} wrap="wrap" align="center" role="group" aria-label="How you hear yourself">
        <Text mr={1}>Hear me</Text>
        {WAYS.map(way => (
          <Pill key={way.hearMe} chosen={hearMe === way.hearMe} onClick={() => setBooth({ hearMe: way.hearMe })}>
            {way.name}
          </Pill>
        ))}
      </Flex>
      {hearMe !== 'app' ? (
        <Text color="ink.soft" mt={1} fontSize="12px">
          {means} The take is dry in any case.
        </Text>
      ) : !confirmed ? (
        <Notice tone="plain" title="Are you wearing headphones?">
          With loudspeakers your voice would go round and howl. Asked once for each output.
          <Box mt={1}>
            <Pill onClick={confirmHeadphones}>Yes, headphones</Pill>
          </Box>
        </Notice>
      ) : howled ? (
        <Notice tone="warn" title="Muted: a howl was growing.">
          The microphone heard the headphones. Move them apart or turn me down, then listen again.
          <Box mt={1}>
            <Pill onClick={() => useRecorder.setState({ howled: false })}>Hear me again</Pill>
          </Box>
        </Notice>
      ) : (
        <Box mt={1}>
          <Grid templateColumns="1fr auto" alignItems="center" gap={2}>
            <BoothSlider
              label="Me in the headphones"
              showLabel="Me"
              value={decibels.me}
              min={-60}
              max={12}
              step={0.5}
              unit="dB"
              change={me => setBooth({ decibels: { ...decibels, me } })}
            />
            <Flex gap={1} title="Less of me, more of me">
              <KeyCap>[</KeyCap>
              <KeyCap>]</KeyCap>
            </Flex>
          </Grid>
          <BoothSlider
            label="Room on me"
            showLabel="Room on me"
            value={room}
            min={-60}
            max={0}
            step={1}
            unit="dB"
            change={value => setBooth({ room: value })}
          />
          <BoothSlider
            label="Echo on me"
            showLabel="Echo on me"
            value={echo}
            min={-60}
            max={0}
            step={1}
            unit="dB"
            change={value => setBooth({ echo: value })}
          />
          <Flex mt={1} gap={2} wrap="wrap">
            <Pill chosen={compress} onClick={() => setBooth({ compress: !compress })}>
              Even out
            </Pill>
            <Pill chosen={tune} disabled={!key} onClick={() => setBooth({ tune: !tune })} title="In the headphones only; the take stays as sung">
              {key ? `In tune with ${toWhat ?? formatKey(key)}` : 'In tune: the key is not known'}
            </Pill>
          </Flex>
          <Delay />
        </Box>
      )}
    </Box>
  )
}

/** As Tidy tunes the layer; null: to the key. */
function toWhatOf({ layers }: Song, layerId: LayerId | null): string | null {
  const to = layers.find(({ id }) => id === layerId)?.tune?.to
  if (to?.kind === 'chord') return 'the chords'
  if (to?.kind === 'part') return 'its part'
  const guide = to?.kind === 'layer' && layers.find(({ id }) => id === to.layerId)
  return guide ? guide.name : null
}

function Delay() {
  useRoundTrip()
  const tune = useBoothSettings(state => state.tune)
  const engine = useLive(state => state.engine)
  if (!engine) return null
  const { frames, source } = knownRoundTrip(engine)
  const milliseconds = (1_000 * (frames + (tune ? MOST_TUNER_DELAY_FRAMES : 0))) / SAMPLE_RATE_HZ
  return (
    <Text color={milliseconds > LATE_MILLISECONDS ? 'warn' : 'ink.soft'} mt={1} fontSize="12px">
      You hear yourself {tune ? 'up to ' : ''}
      {milliseconds.toFixed(0)} ms late{source === 'estimated' ? ', by the browser’s own figures' : ''}.{' '}
      {tune ? 'Tuning costs up to 17 ms of that; room' : 'Room'}, echo and evening out cost nothing.{' '}
      {milliseconds > LATE_MILLISECONDS ? TOO_LATE : 'That is too short to notice.'}
    </Text>
  )
}
