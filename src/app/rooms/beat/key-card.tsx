/** The key: what was found, the next candidates, its notes as pictures and sounds, and correction by hand. */
import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react'
import { memo, startTransition, useDeferredValue, useEffect, useRef, useState } from 'react'
import { Bar, BarChart, Rectangle, XAxis } from 'recharts'
import { MODE_COLOURS, scaleSemitones, TONICS, type Key, type ModeColour, type Mode, type Tonic } from '../../../core/beat/key-names'
import { profileOf, type KeyAnalysis } from '../../../core/beat/key'
import { chordTonesAt, droneTones, scaleTones } from '../../../core/beat/tones'
import { setKey } from '../../../core/song/beat-facts'
import { formatConfidence, formatKey, formatNote, formatPitchClass } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { useWidth } from '../../shared/use-width'
import { ensureEngine } from '../../song/live'
import { edit, useSong } from '../../song/song-store'

const COLOURS_OF: Record<Mode, ModeColour[]> = {
  minor: MODE_COLOURS.filter(colour => ['dorian', 'harmonic minor', 'phrygian'].includes(colour)),
  major: MODE_COLOURS.filter(colour => ['mixolydian', 'lydian'].includes(colour)),
}

/** @param found Null where no key was heard (yet). @param listened Whether the listening is over. */
export const KeyCard = memo(function KeyCard({ found, listened }: { found: KeyAnalysis | null; listened: boolean }) {
  const { key, colour, keySource, tuningCents, fileSays } = useSong(song => song.beat)
  // A chart is much to draw: it follows a moment after the answer.
  const chroma = useDeferredValue(found?.chroma ?? null, null)
  const readings = found?.readings ?? []
  const keep = (next: Key, nextColour: ModeColour | null, source: 'typed' | 'found') =>
    edit(`set the key to ${formatKey(next)}`, song => setKey(song, { key: next, colour: nextColour, source }))
  const matching = readings.find(reading => reading.key.tonic === key?.tonic && reading.key.mode === key.mode)
  return (
    <Card>
      <Flex justify="space-between" align="baseline">
        <CardTitle>Key</CardTitle>
        <Text color="ink.soft">
          {key === null
            ? 'not known yet'
            : keySource === 'typed'
              ? 'as you set it'
              : matching
                ? `heard, ${formatConfidence(matching.confidence)} sure`
                : 'heard'}
        </Text>
      </Flex>
      <Flex align="center" gap={2} mt={3} wrap="wrap">
        <Choice
          label="Tonic"
          width="76px"
          value={key?.tonic ?? ''}
          onChoose={tonic => keep({ tonic: tonic as Tonic, mode: key?.mode ?? 'minor' }, colour, 'typed')}
          options={[...(key === null ? [['', '–']] : []), ...TONICS.map(tonic => [tonic, formatNote(tonic)])]}
        />
        <Choice
          label="Mode"
          width="92px"
          value={key?.mode ?? 'minor'}
          onChoose={mode => keep({ tonic: key?.tonic ?? 'C', mode: mode as Mode }, null, 'typed')}
          options={[
            ['minor', 'minor'],
            ['major', 'major'],
          ]}
        />
        <Choice
          label="Colour of the mode"
          width="124px"
          value={colour ?? ''}
          onChoose={next => key && keep(key, (next || null) as ModeColour | null, 'typed')}
          options={[['', 'plain'], ...COLOURS_OF[key?.mode ?? 'minor'].map(entry => [entry, entry])]}
        />
        <Box>
          tuned{' '}
          <NumberField
            label="Tuning of the beat"
            value={tuningCents}
            min={-50}
            max={50}
            digits={0}
            unit="cents"
            width="44px"
            onKeep={cents =>
              edit('set the tuning', song => setKey(song, { key: song.beat.key, colour: song.beat.colour, tuningCents: cents, source: song.beat.keySource }))
            }
          />
        </Box>
      </Flex>
      {readings.length > 0 ? (
        <Flex gap={2} mt={3} wrap="wrap" align="center">
          <Text color="ink.soft">Heard:</Text>
          {readings.map(reading => (
            <Pill key={formatKey(reading.key)} chosen={reading === matching} onClick={() => keep(reading.key, reading.colour, 'found')}>
              {formatKey(reading.key)} · {formatConfidence(reading.confidence)}
            </Pill>
          ))}
        </Flex>
      ) : listened ? (
        <Text color="ink.soft" mt={3}>
          No key was heard: there is nothing pitched in this beat. Choose one if you know it.
        </Text>
      ) : null}
      {fileSays.key ? (
        <Flex gap={2} mt={2} align="center" color="ink.soft">
          <Text>The file itself says {formatKey(fileSays.key)}.</Text>
          {formatKey(fileSays.key) === formatKey(key) ? null : <Pill onClick={() => keep(fileSays.key!, null, 'typed')}>Take that</Pill>}
        </Flex>
      ) : null}
      {key ? <KeyNotes keyOfBeat={key} colour={colour} chroma={chroma} /> : null}
      {key ? <HearKey keyOfBeat={key} colour={colour} tuningCents={tuningCents} /> : null}
    </Card>
  )
})

function Choice({
  label,
  width,
  value,
  options,
  onChoose,
}: {
  label: string
  width: string
  value: string
  options: string[][]
  onChoose: (value: string) => void
}) {
  return (
    <NativeSelect.Root size="sm" width={width}>
      <NativeSelect.Field aria-label={label} bg="card" borderColor="seamline" value={value} onChange={event => onChoose(event.target.value)}>
        {options.map(([entry, text]) => (
          <option key={entry} value={entry}>
            {text}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}

/** How much of each note sounds in the beat, from the tonic up; those of the key in full colour. */
const KeyNotes = memo(function KeyNotes({ keyOfBeat, colour, chroma }: { keyOfBeat: Key; colour: ModeColour | null; chroma: number[] | null }) {
  const tonic = TONICS.indexOf(keyOfBeat.tonic)
  const scale = scaleSemitones(keyOfBeat.mode, colour)
  const names = scale.map(step => formatPitchClass((tonic + step) % 12, keyOfBeat))
  if (!chroma || chroma.every(value => value === 0)) {
    return (
      <Text mt={3} color="ink.soft">
        Its notes:{' '}
        <Box as="span" color="ink">
          {names.join('  ')}
        </Box>
      </Text>
    )
  }
  const usual = profileOf(keyOfBeat)
  const data = Array.from({ length: 12 }, (_, step) => ({
    note: formatPitchClass((tonic + step) % 12, keyOfBeat),
    share: percent(chroma[(tonic + step) % 12]!),
    usual: percent(usual[(tonic + step) % 12]!),
    fill: `var(--chakra-colors-${scale.includes(step) ? 'brand' : 'seamline'})`,
  }))
  const shares = data.map(({ note, share, usual }) => `${note} ${share} percent, usually ${usual}`).join('; ')
  return (
    <Box mt={3}>
      <Box role="img" aria-label={`Notes of the key: ${names.join(', ')}. Shares of the sound: ${shares}`}>
        <NotesChart data={data} />
      </Box>
      <Text fontSize="12px" color="ink.soft">
        Filled: this beat. Outlined: what is usual in {formatKey(keyOfBeat)}.
      </Text>
    </Box>
  )
})

function percent(share: number): number {
  return Math.round(1_000 * share) / 10
}

function NotesChart({ data }: { data: { note: string; share: number; usual: number; fill: string }[] }) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  // A chart drawn for the first time would hold up everything else: one part at a time.
  const [parts, setParts] = useState(0)
  useEffect(() => {
    if (width === 0 || parts === 3) return
    const idle = requestIdleCallback(() => startTransition(() => setParts(parts + 1)), { timeout: 500 })
    return () => cancelIdleCallback(idle)
  }, [width, parts])
  return (
    <Box ref={box} aria-hidden height="86px">
      {parts > 0 ? (
        <BarChart
          width={width}
          height={86}
          data={data}
          margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
          barCategoryGap="18%"
          barGap={1}
          accessibilityLayer={false}
        >
          {parts > 1 ? (
            <XAxis dataKey="note" interval={0} tickLine={false} axisLine={false} tick={{ fontSize: 12, fill: 'var(--chakra-colors-ink-soft)' }} height={20} />
          ) : null}
          {parts > 2 ? <Bar dataKey="share" isAnimationActive={false} radius={[4, 4, 0, 0]} /> : null}
          {parts > 2 ? (
            <Bar
              dataKey="usual"
              isAnimationActive={false}
              shape={props => <Rectangle {...props} radius={[4, 4, 0, 0]} fill="none" stroke="var(--chakra-colors-ink-soft)" />}
            />
          ) : null}
        </BarChart>
      ) : null}
    </Box>
  )
}

type Sounding = 'scale' | 'chord' | 'drone'

/** Sounds over the playing beat, at the beat's own tuning. */
function HearKey({ keyOfBeat, colour, tuningCents }: { keyOfBeat: Key; colour: ModeColour | null; tuningCents: number }) {
  const [held, setHeld] = useState(false)
  const hear = async (what: Sounding | null) => {
    const engine = await ensureEngine()
    const tonic = TONICS.indexOf(keyOfBeat.tonic)
    const scale = scaleSemitones(keyOfBeat.mode, colour)
    setHeld(what === 'drone')
    await engine?.playBeside(
      what === null
        ? null
        : what === 'scale'
          ? scaleTones(tonic, scale, tuningCents)
          : what === 'chord'
            ? chordTonesAt(
                [0, keyOfBeat.mode === 'major' ? 4 : 3, 7].map(step => (tonic + step) % 12),
                tuningCents,
              )
            : droneTones(tonic, tuningCents),
      what === 'drone',
    )
  }
  return (
    <Flex align="center" gap={2} mt={2} wrap="wrap">
      <Text color="ink.soft">Hear:</Text>
      <Pill onClick={() => void hear('scale')}>the scale</Pill>
      <Pill onClick={() => void hear('chord')}>its chord</Pill>
      <Pill chosen={held} onClick={() => void hear(held ? null : 'drone')}>
        {held ? 'stop the drone' : 'a drone'}
      </Pill>
    </Flex>
  )
}
