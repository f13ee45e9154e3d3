/** Tune: how far, in words and in numbers; and the note that is looked at. */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import type { NoteInSong } from '../../../core/prints/laid-in'
import { TUNE_RANGES, type LayerTune, type TuneSettings } from '../../../core/song/tidy-schema'
import { layerTune, stepOf, TUNE_STEPS, type TuneStep } from '../../../core/tune/tune-settings'
import { formatKey } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, KeyCap, Notice, Pill } from '../../shared/parts'
import { Agreed } from './agreed'
import { AllAlike } from './all-alike'
import { hearWithOrWithout, noteAlone } from './hear-laid'
import { bareWord } from './mend-words'
import { offWords } from './note-words'
import { OffsStrip } from './offs-strip'
import { giveBack, layRung, layTune } from './tidying'
import { keyOfNote, useTidy } from './tidy-store'
import { TuneToChoice } from './tune-to'
import type { Line } from './use-line'

/** In the words of a sentence: "within 90 ms". Shares are shown as per cent. */
const NUMBERS: { name: keyof TuneSettings; before: string; unit: string; scale: number; digits: number }[] = [
  { name: 'speedMilliseconds', before: 'within', unit: 'ms', scale: 1, digits: 0 },
  { name: 'amount', before: 'by', unit: '%', scale: 100, digits: 0 },
  { name: 'toleranceCents', before: 'left if nearer than', unit: 'cents', scale: 1, digits: 0 },
  { name: 'vibratoKept', before: 'vibrato kept', unit: '%', scale: 100, digits: 0 },
  { name: 'glidesKept', before: 'glides kept', unit: '%', scale: 100, digits: 0 },
  { name: 'throatSemitones', before: 'throat', unit: 'semitones', scale: 1, digits: 1 },
]

export function TuneCard({ line }: { line: Line }) {
  const { layer, song, notes } = line
  const { tune } = layer
  const { key } = song.beat
  const step = tune && stepOf(tune)
  const chosen = useTidy(state => state.note)
  const note = notes.find(entry => keyOfNote(entry) === chosen)
  const lay = (label: string, settings: LayerTune | null) => layTune([layer.id], label, settings)
  const choose = (name: TuneStep) => lay(`tune ${layer.name} ${name}`, layerTune({ ...TUNE_STEPS[name], throatSemitones: tune?.throatSemitones ?? 0 }, tune))
  return (
    <Card p={3} minW={0}>
      <Flex align="center" gap={2} rowGap={1} wrap="wrap">
        <CardTitle>Tune</CardTitle>
        {tune && key ? (
          <TuneToChoice line={line} tune={tune} />
        ) : (
          <Text color="ink.soft">{key ? `to ${formatKey(key)}, all of this layer` : 'all of this layer'}</Text>
        )}
        <Box flex="1" />
        <AllAlike line={line} what="tune" lay={layTune} />
      </Flex>
      {key ? null : (
        <Box mt={2}>
          <Notice tone="warn" title="The beat’s key is not known">
            Choose it in Beat: it says which notes are the rungs.
          </Notice>
        </Box>
      )}
      <Flex gap="6px" mt={2} wrap="wrap" role="group" aria-label="How far">
        <Pill px={3} chosen={tune === null} onClick={() => lay(`${layer.name} as sung`, null)}>
          as sung
        </Pill>
        {(Object.keys(TUNE_STEPS) as TuneStep[]).map(name => (
          <Pill key={name} px={3} chosen={step === name} disabled={!key} onClick={() => choose(name)}>
            {name}
          </Pill>
        ))}
      </Flex>
      {tune ? (
        <Grid mt={2} templateColumns="repeat(2, max-content)" columnGap={5} rowGap={1}>
          {NUMBERS.map(({ name, before, unit, scale, digits }) => (
            <Flex key={name} align="center" gap="6px">
              <Text>{before}</Text>
              <NumberField
                label={before}
                value={tune[name] * scale}
                min={TUNE_RANGES[name].min * scale}
                max={TUNE_RANGES[name].max * scale}
                unit={unit}
                digits={digits}
                width="48px"
                onKeep={typed => lay(`${before} ${typed} ${unit}`, { ...tune, [name]: typed / scale })}
              />
            </Flex>
          ))}
        </Grid>
      ) : null}
      {note ? <ChosenNote note={note} line={line} /> : null}
      {tune ? <Agreed line={line} /> : null}
      {tune ? <OffsStrip line={line} amount={tune.amount} /> : null}
    </Card>
  )
}

function ChosenNote({ note, line }: { note: NoteInSong; line: Line }) {
  const { cents, targetCents } = note.note
  const rung = targetCents ?? note.rungCents
  const word = line.words.findLast(entry => entry.startFrame <= (note.startFrame + note.endFrame) / 2)
  return (
    <Flex mt={2} pt={2} gap={2} align="center" wrap="wrap" borderTopWidth="1px" borderStyle="dashed" borderColor="seamline">
      <Text fontFamily="heading" fontWeight={600} fontSize="16px">
        {word ? bareWord(word) : 'This note'}
      </Text>
      <Text color="ink.soft">{offWords(note, line.song)}</Text>
      {rung === null ? null : (
        <NumberField
          label="Drawn to, from its rung"
          value={rung - (note.rungCents ?? rung)}
          min={-1_200}
          max={1_200}
          unit="cents"
          digits={0}
          width="52px"
          onKeep={typed => layRung(note, `draw a note ${typed} cents off its rung`, (note.rungCents ?? cents) + typed)}
        />
      )}
      <Pill size="xs" px={3} chosen={note.left === 'as-sung'} onClick={() => layRung(note, 'leave a note as sung', null)}>
        As sung
      </Pill>
      <Pill size="xs" px={3} onClick={() => void hearWithOrWithout(noteAlone(note), line)}>
        With, without <KeyCap>H</KeyCap>
      </Pill>
      {note.own ? (
        <Pill size="xs" px={3} onClick={() => giveBack(note)}>
          As the layer
        </Pill>
      ) : null}
    </Flex>
  )
}
