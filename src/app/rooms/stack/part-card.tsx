/** What a layer is to sing: a part from the lead's notes, seen, changed note by note, heard while it is sung, or sung by a made voice. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { leadOf } from '../../../core/align/led-paths'
import { partOfLead } from '../../../core/parts/part-of-lead'
import { PART_KINDS, type PartKind } from '../../../core/parts/part'
import { partFromMidi, partMidi } from '../../../core/parts/song-midi'
import { setMade, setPart } from '../../../core/parts/commands'
import { madePhrases } from '../../../core/prints/made-voices'
import { MADE_THROAT_RANGE } from '../../../core/song/part-schema'
import type { Layer, Song } from '../../../core/song/schema'
import { overlapFrames, type FrameRange } from '../../../core/song/select'
import { count } from '../../shared/format'
import { LayerSelect } from '../../shared/layer-select'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Notice, Pill, PrimaryButton } from '../../shared/parts'
import { PillSelect } from '../../shared/pill-select'
import { saveBlob } from '../../shared/save-blob'
import { edit, useSong } from '../../song/song-store'
import { selectedLines, useView } from '../../song/view-store'
import { PartLadder } from './part-ladder'
import { useLeadNotes } from './use-lead-notes'

const KIND_NAMES: Record<PartKind, string> = {
  'third-above': 'a third above',
  'third-below': 'a third below',
  'fifth-above': 'a fifth above',
  'sixth-above': 'a sixth above',
  'sixth-below': 'a sixth below',
  'octave-above': 'an octave above',
  'octave-below': 'an octave below',
}

const USUAL_KINDS: Partial<Record<Layer['role'], PartKind>> = { 'low-harmony': 'third-below', octave: 'octave-below' }

export function PartCard() {
  const song = useSong(current => current)
  const layerId = useView(state => state.layerId)
  const others = song.layers.filter(layer => leadOf(song, layer) !== null && layer.role !== 'double')
  const layer = others.find(({ id }) => id === layerId) ?? others[0]
  if (!layer)
    return (
      <Card>
        <CardTitle>What to sing</CardTitle>
        <Text color="ink.soft" mt={2}>
          Once the lead plays something, harmonies get their notes here, and can be heard before anyone sings them.
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
  const [kind, setKind] = useState<PartKind>(USUAL_KINDS[layer.role] ?? 'third-above')
  const range = rangeOf(lines)
  const here = layer.part.filter(note => lines.some(line => overlapFrames(note, line) > 0))
  const write = () => {
    if (!leadNotes || !range) return
    const notes = partOfLead(song, leadNotes, kind)
    // Line by line: what is written between the chosen lines stays.
    edit(`${layer.name}: ${KIND_NAMES[kind]}`, current =>
      lines.reduce((written, line) => setPart(written, { layerId: layer.id, range: line, notes: notesOf(line, notes) }), current),
    )
  }
  const made = layer.made
  const toggleMade = () =>
    edit(made ? `${layer.name} sung by nobody` : `a made voice sings ${layer.name}`, current =>
      setMade(current, { layerId: layer.id, made: made ? null : { throatSemitones: 0, seed: seedOf(song, layer) } }),
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
          options={PART_KINDS.map(value => ({ value, label: KIND_NAMES[value] }))}
          onChoose={value => setKind(value as PartKind)}
        />
        <Pill size="sm" px={3} disabled={!leadNotes || leadNotes.length === 0 || !song.beat.key} onClick={write}>
          {leadNotes === null ? 'Listening to the lead …' : `Write it for ${count(lines.length, 'line')}`}
        </Pill>
        <Text color="ink.soft">
          {lines.length === 0 ? 'Choose lines on the sheet.' : here.length === 0 ? 'nothing is written here' : count(here.length, 'note')}
        </Text>
      </Flex>
      <Flex gap={2} mt={2} wrap="wrap" align="center">
        <MidiButtons song={song} layer={layer} />
      </Flex>
      {here.length > 0 && range ? (
        <>
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
  const input = useRef<HTMLInputElement>(null)
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
      <Pill size="xs" px={3} onClick={() => input.current?.click()}>
        Bring in MIDI
      </Pill>
      <input
        ref={input}
        type="file"
        accept=".mid,.midi,audio/midi"
        hidden
        aria-label="A MIDI file with the part"
        onChange={event => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (file) void bringIn(file)
        }}
      />
      {refusal ? (
        <Text color="warn" width="100%" role="alert">
          {refusal}
        </Text>
      ) : null}
    </>
  )
}
