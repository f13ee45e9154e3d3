/** What a layer is to sing: a part from the lead's notes, seen, changed note by note, heard while it is sung, or sung by a made voice. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { leadOf } from '../../../core/align/led-paths'
import { heldPartOf, partOfLead } from '../../../core/parts/part-of-lead'
import { READINGS, type Reading } from '../../../core/parts/part'
import { outOfRange, voiceRange, type VoiceRange } from '../../../core/parts/voice-range'
import { partFromMidi, partMidi } from '../../../core/parts/song-midi'
import { setMade, setPart } from '../../../core/parts/commands'
import { madePhrases } from '../../../core/prints/made-voices'
import { MADE_THROAT_RANGE } from '../../../core/song/part-schema'
import type { Layer, Song } from '../../../core/song/schema'
import type { PlacedPartNote } from '../../../core/song/part-schema'
import { overlapFrames, type FrameRange } from '../../../core/song/select'
import { count, formatMidi } from '../../shared/format'
import { PART_NAMES, usualKind, type WrittenKind } from '../../shared/part-kinds'
import { LayerSelect } from '../../shared/layer-select'
import { NumberField } from '../../shared/number-field'
import { ChooseFile } from '../../shared/choose-file'
import { Card, CardTitle, Notice, Pill, PrimaryButton } from '../../shared/parts'
import { PillSelect } from '../../shared/pill-select'
import { saveBlob } from '../../shared/save-blob'
import { edit, useSong } from '../../song/song-store'
import { selectedLines, useView } from '../../song/view-store'
import { PartLadder } from './part-ladder'
import { useLeadNotes } from '../../song/use-lead-notes'
import { HearPart } from './hear-part'
import { PartKeys } from './part-keys'
import { TypePart } from './type-part'

export function PartCard() {
  const song = useSong(current => current)
  const layerId = useView(state => state.layerId)
  const others = song.layers.filter(layer => layer.role !== 'double' && layer.role !== 'lead')
  const layer = others.find(({ id }) => id === layerId) ?? others[0]
  if (!layer)
    return (
      <Card>
        <CardTitle>What to sing</CardTitle>
        <Text color="ink.soft" mt={2}>
          Harmonies, octaves and ad-libs get their notes here. Add such a layer under Layers.
        </Text>
      </Card>
    )
  return <PartOf key={layer.id} song={song} layer={layer} others={others} />
}

/** A voice of its own for each layer. */
const seedOf = (song: Song, layer: Layer) => song.layers.indexOf(layer) + 1

function PartOf({ song, layer, others }: { song: Song; layer: Layer; others: readonly Layer[] }) {
  const selection = useView(state => state.selection)
  const navigate = useNavigate()
  const lines = useMemo(() => selectedLines(song, selection), [song, selection])
  const lead = leadOf(song, layer)
  const leadNotes = useLeadNotes(song, lead, lines)
  const [kind, setKind] = useState<WrittenKind>(usualKind(layer.role))
  const [isPlayed, setPlayed] = useState(false)
  const [reading, setReading] = useState<Reading>('steps')
  const range = rangeOf(lines)
  const here = layer.part.filter(note => lines.some(line => overlapFrames(note, line) > 0))
  const voice = useMemo(() => voiceRange(song), [song])
  const notesBy = (by: Reading) =>
    kind === 'held'
      ? heldPartOf(song, lines, voice ? Math.round((voice.lowMidi + voice.highMidi) / 2) : 62)
      : partOfLead(song, leadNotes ?? [], { kind, reading: by, layerId: layer.id })
  // Where both readings come to the same there is nothing to choose.
  const open = kind === 'held' ? 0 : notesBy('chords').filter((note, i) => note.midi !== notesBy('steps')[i]?.midi).length
  const needsLead = kind !== 'held'
  const writeNotes = (label: string, notes: readonly PlacedPartNote[]) =>
    // Line by line: what is written between the chosen lines stays.
    edit(label, current => lines.reduce((written, line) => setPart(written, { layerId: layer.id, range: line, notes: notesOf(line, notes) }), current))
  const write = (by = reading) => {
    if (!range || (needsLead && !leadNotes)) return
    writeNotes(`${layer.name}: ${PART_NAMES[kind]}`, notesBy(by))
  }
  const made = layer.made
  const toggleMade = () =>
    edit(made ? `${layer.name} sung by nobody` : `a made voice sings ${layer.name}`, current =>
      setMade(current, { layerId: layer.id, made: made ? null : { sound: 'lead', throatSemitones: 0, seed: seedOf(song, layer) } }),
    )
  return (
    <Card>
      <Flex align="center" gap={2} wrap="wrap">
        <CardTitle>What to sing</CardTitle>
        <LayerSelect label="Layer to write for" size="xs" layerId={layer.id} layers={others} />
      </Flex>
      {song.beat.key ? null : (
        <Box mt={2}>
          <Notice tone="warn" title="The beat’s key is not known">
            Choose it in Beat: a part goes by its steps.
          </Notice>
        </Box>
      )}
      <Flex gap={2} mt={2} wrap="wrap" align="center">
        <PillSelect
          size="xs"
          width="150px"
          label="Part"
          value={kind}
          options={(Object.keys(PART_NAMES) as WrittenKind[]).map(value => ({ value, label: PART_NAMES[value] }))}
          onChoose={value => setKind(value as WrittenKind)}
        />
        <Pill
          size="sm"
          px={3}
          disabled={lines.length === 0 || (needsLead ? !leadNotes?.length || !song.beat.key : song.beat.chords.length === 0)}
          onClick={() => write()}
        >
          {needsLead && leadNotes === null ? 'Listening to the lead …' : `Write it for ${count(lines.length, 'line')}`}
        </Pill>
        <Text color="ink.soft">
          {lines.length === 0 ? 'Choose lines on the sheet.' : here.length === 0 ? 'nothing is written here' : count(here.length, 'note')}
        </Text>
      </Flex>
      {open > 0 ? (
        <Flex gap="6px" mt={2} wrap="wrap" align="center" role="group" aria-label="How the harmony is read">
          <Text color="ink.soft">{count(open, 'note')} can be read two ways:</Text>
          {READINGS.map(value => (
            <Pill
              key={value}
              size="xs"
              px={3}
              chosen={reading === value}
              onClick={() => {
                setReading(value)
                if (here.length > 0) write(value)
              }}
            >
              {value === 'steps' ? 'by steps of the key' : 'by the chords'}
            </Pill>
          ))}
        </Flex>
      ) : null}
      {needsLead && lead === null ? (
        <Text mt={2} color="ink.soft">
          The lead plays nothing here yet: hold a note of the chord, play the notes below, or bring them in.
        </Text>
      ) : null}
      <Flex gap={2} mt={2} wrap="wrap" align="center">
        <MidiButtons song={song} layer={layer} />
        <Pill size="xs" px={3} chosen={isPlayed} disabled={!range} onClick={() => setPlayed(!isPlayed)}>
          Play it on keys
        </Pill>
        {range ? (
          <TypePart
            slots={here.length > 0 ? here : (leadNotes ?? [])}
            range={range}
            onType={notes => writeNotes(`${layer.name}: typed notes`, [...notes, ...here.slice(notes.length)])}
          />
        ) : null}
        {here.length > 0 && range ? <HearPart song={song} layer={layer} range={range} /> : null}
      </Flex>
      {range && isPlayed ? <PartKeys key={lines.map(({ line }) => line.id).join()} layer={layer} notes={here} onEnd={() => setPlayed(false)} /> : null}
      {here.length > 0 && range ? (
        <>
          {voice ? (
            <InRange
              voice={voice}
              here={here}
              song={song}
              onMove={by =>
                writeNotes(
                  `${layer.name} an octave ${by < 0 ? 'lower' : 'higher'}`,
                  here.map(note => ({ ...note, midi: note.midi + by })),
                )
              }
            />
          ) : null}
          <PartLadder layer={layer} notes={here} leadNotes={leadNotes ?? []} range={range} lines={lines} />
          <Flex mt={2} gap={2} wrap="wrap" align="center">
            <PrimaryButton onClick={() => void navigate(`/song/${song.id}/booth`)}>Sing it to its guide</PrimaryButton>
            <Pill size="sm" px={3} chosen={made !== null} onClick={toggleMade}>
              A made voice sings it
            </Pill>
            {made ? (
              <NumberField
                label="Throat of the made voice"
                value={made.throatSemitones}
                {...MADE_THROAT_RANGE}
                unit="semitones"
                width="48px"
                onKeep={throatSemitones =>
                  edit(`throat of ${layer.name}`, current => setMade(current, { layerId: layer.id, made: { ...made, throatSemitones } }))
                }
              />
            ) : null}
          </Flex>
          <Text mt={2} color="ink.soft">
            {made ? madeWords(song, layer, lines) : 'In the Booth the part sounds while it is sung, from the lead’s own voice.'}
          </Text>
        </>
      ) : null}
    </Card>
  )
}

/** What lies outside what was sung so far. */
function InRange({ voice, here, song, onMove }: { voice: VoiceRange; here: readonly PlacedPartNote[]; song: Song; onMove: (bySemitones: number) => void }) {
  const { below, above } = outOfRange(here, voice)
  if (below + above === 0) return null
  const sung = `You have sung from ${formatMidi(voice.lowMidi, song.beat.key)} to ${formatMidi(voice.highMidi, song.beat.key)}`
  return (
    <Flex mt={2} gap={2} align="center" wrap="wrap">
      <Text color="warn">
        {sung}: {[above > 0 ? `${count(above, 'note')} above` : null, below > 0 ? `${count(below, 'note')} below` : null].filter(Boolean).join(', ')}.
      </Text>
      <Pill size="xs" px={3} onClick={() => onMove(above >= below ? -12 : 12)}>
        An octave {above >= below ? 'lower' : 'higher'}
      </Pill>
    </Flex>
  )
}

function madeWords(song: Song, layer: Layer, lines: readonly FrameRange[]): string {
  const phrases = madePhrases(song, layer).filter(phrase => lines.some(line => notesOf(line, [phrase]).length > 0))
  if (phrases.length === 0) return 'Takes play here; a made voice sings only where none does.'
  const sung = `${count(phrases.length, 'phrase')} here ${phrases.length === 1 ? 'is' : 'are'} sung by nobody.`
  return `${sung} A sung one breathes and bends by itself: sing a line, and it takes the made one’s place.`
}

/** A note, or a phrase, belongs to the line that its middle lies in. */
function notesOf<N extends FrameRange>(line: FrameRange, notes: readonly N[]): N[] {
  return notes.filter(({ startFrame, endFrame }) => (startFrame + endFrame) / 2 >= line.startFrame && (startFrame + endFrame) / 2 < line.endFrame)
}

function rangeOf(lines: readonly FrameRange[]): FrameRange | null {
  return lines.length > 0 ? { startFrame: lines[0]!.startFrame, endFrame: lines.at(-1)!.endFrame } : null
}

function MidiButtons({ song, layer }: { song: Song; layer: Layer }) {
  const [refusal, setRefusal] = useState<string | null>(null)
  const bringIn = async (file: File) => {
    try {
      const notes = partFromMidi(new Uint8Array(await file.arrayBuffer()))
      const whole = { startFrame: 0, endFrame: Math.max(song.beat.frames, notes.at(-1)!.endFrame) }
      edit(`${layer.name} from ${file.name}`, current => setPart(current, { layerId: layer.id, range: whole, notes }))
      setRefusal(null)
    } catch (error) {
      if (!(error instanceof RangeError)) throw error
      setRefusal(`${file.name}: ${error.message}. Nothing was changed.`)
    }
  }
  const save = () => saveBlob(new Blob([partMidi(song, layer) as BlobPart], { type: 'audio/midi' }), `${song.title} - ${layer.name}.mid`)
  return (
    <>
      {layer.part.length > 0 ? (
        <Pill size="xs" px={3} onClick={save}>
          Save as MIDI
        </Pill>
      ) : null}
      <ChooseFile size="xs" px={3} label="A MIDI file with the part" accept=".mid,.midi,audio/midi" onChoose={file => void bringIn(file)}>
        Bring in MIDI
      </ChooseFile>
      {refusal ? (
        <Text color="warn" width="100%" role="alert">
          {refusal}
        </Text>
      ) : null}
    </>
  )
}
