/** Words thrown into spaces: those of the chosen line, and a list of all that are thrown. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { Play, Trash2 } from 'lucide-react'
import { useCallback, useMemo } from 'react'
import { addThrow, removeThrows, setThrow, throwsSung } from '../../../core/mix/throws'
import { anchoredWords, resolveAnchor, type WordRange } from '../../../core/song/anchor'
import { THROW_TAILS, type SpaceId, type Throw, type ThrowTail } from '../../../core/song/mix-schema'
import { GAIN_RANGE_DECIBELS, type Layer, type Song } from '../../../core/song/schema'
import { placedLines, type PlacedLine } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { count, formatDecibels } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, KeyCap, Pill, PrimaryButton, SmallButton } from '../../shared/parts'
import { PillSelect } from '../../shared/pill-select'
import { ThrownMark } from '../../shared/thrown-mark'
import { play } from '../../song/live'
import { currentSong, edit, useSong } from '../../song/song-store'
import { focusedLine, select, useView } from '../../song/view-store'
import { chosenVoice, chosenWords, LineWords, sayWords } from './line-words'
import { OnlyWords } from './only-words'
import { SheetHead } from './sheet-head'
import { chooseVoice, useMix } from './mix-store'

const TAIL_WORDS: Record<ThrowTail, string> = {
  rings: 'rings on',
  ducks: 'soft under the next line',
  ends: 'ends before the next line',
}

/** The space that words are thrown into: the one chosen, or the first echo. */
function spaceOf(song: Song): SpaceId | null {
  const { throwInto } = useMix.getState()
  const echo = song.spaces.find(space => space.kind === 'echo') ?? song.spaces[0]
  return song.spaces.find(space => space.id === throwInto)?.id ?? echo?.id ?? null
}

function throwAt(song: Song, layer: Layer, { line }: PlacedLine, words: WordRange | null): Throw | null {
  const lines = placedLines(song)
  return (
    layer.throws.find(({ on }) => {
      const at = resolveAnchor(on, lines)
      return at?.placed.line.id === line.id && at.words?.from === words?.from && at.words?.to === words?.to
    }) ?? null
  )
}

/** Throws what is chosen, or takes it back: by the key, from anywhere in the room. */
export function toggleThrow(): void {
  const song = currentSong()
  const placed = focusedLine(song, useView.getState().selection)
  const [layer, spaceId] = [chosenVoice(song), spaceOf(song)]
  if (!placed || !layer || !spaceId) return
  const words = chosenWords(placed)
  const thrown = throwAt(song, layer, placed, words)
  const what = sayWords(placed, words)
  if (thrown) edit(`take back “${what.slice(0, 30)}”`, current => removeThrows(current, { layerId: layer.id, throwIds: [thrown.id] }))
  else {
    const { throwTail, throwDecibels } = useMix.getState()
    const options = { layerId: layer.id, lineId: placed.line.id, words, spaceId, gainDecibels: throwDecibels, tail: throwTail, makeId }
    edit(`throw “${what.slice(0, 30)}”`, current => addThrow(current, options))
  }
}

export function ThrowsSheet() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const { layerId: _, ...looks } = useMix()
  const layer = chosenVoice(song)
  const placed = focusedLine(song, selection)
  const spaceId = spaceOf(song)
  if (!layer || !spaceId) {
    return (
      <Card p={3}>
        <CardTitle>Throws</CardTitle>
        <Text color="ink.soft">{layer ? 'Add a space first: words are thrown into one.' : 'No voice has a word to throw yet.'}</Text>
      </Card>
    )
  }
  const words = placed ? chosenWords(placed) : null
  const thrown = placed ? throwAt(song, layer, placed, words) : null
  const shown = thrown ?? { spaceId, gainDecibels: looks.throwDecibels, tail: looks.throwTail }
  const marked = anchoredWords(
    layer.throws.map(({ on }) => on),
    placedLines(song),
  )
  const change = (settings: { spaceId?: SpaceId; gainDecibels?: number; tail?: ThrowTail }) => {
    useMix.setState({
      ...(settings.spaceId ? { throwInto: settings.spaceId } : {}),
      ...(settings.gainDecibels === undefined ? {} : { throwDecibels: settings.gainDecibels }),
      ...(settings.tail ? { throwTail: settings.tail } : {}),
    })
    if (thrown) edit('change a throw', current => setThrow(current, { layerId: layer.id, throwId: thrown.id, ...settings }))
  }
  return (
    <Card p={3}>
      <SheetHead title="Throws" layer={layer} />
      {placed ? (
        <LineWords placed={placed} chosen={words} marked={marked.get(placed.line.id) ?? []} said="thrown" mark={<ThrownMark />} />
      ) : (
        <Text mt={2} color="ink.soft">
          A word goes into an echo and fills the gap after it. Choose a line on the sheet: its words come here.
        </Text>
      )}
      {placed ? (
        <>
          <Flex mt={3} gap={2} align="center" wrap="wrap">
            <Text color="ink.soft">into</Text>
            <PillSelect
              size="xs"
              width="112px"
              label="Into which space"
              value={shown.spaceId}
              options={song.spaces.map(({ id, name }) => ({ value: id, label: name }))}
              onChoose={id => change({ spaceId: id as SpaceId })}
            />
            <NumberField
              label="How loud it goes in"
              value={shown.gainDecibels}
              min={GAIN_RANGE_DECIBELS.min}
              max={GAIN_RANGE_DECIBELS.max}
              unit="dB"
              width="48px"
              onKeep={gainDecibels => change({ gainDecibels })}
            />
            <PillSelect
              size="xs"
              width="186px"
              label="What becomes of the answer"
              value={shown.tail}
              options={THROW_TAILS.map(tail => ({ value: tail, label: TAIL_WORDS[tail] }))}
              onChoose={tail => change({ tail: tail as ThrowTail })}
            />
          </Flex>
          <Flex mt={3} gap={2} align="center" wrap="wrap">
            <PrimaryButton size="sm" onClick={toggleThrow}>
              {thrown ? 'Take it back' : 'Throw it'} <KeyCap>T</KeyCap>
            </PrimaryButton>
            <Pill size="sm" onClick={() => void play(placed.startFrame)}>
              Hear the line
            </Pill>
            <OnlyWords layer={layer} placed={placed} words={words} />
          </Flex>
        </>
      ) : null}
      <AllThrows song={song} />
    </Card>
  )
}

function AllThrows({ song }: { song: Song }) {
  const all = useMemo(() => song.layers.flatMap(layer => throwsSung(song, layer).map(entry => ({ layer, ...entry }))), [song])
  const kept = song.layers.reduce((sum, layer) => sum + layer.throws.length, 0)
  const hear = useCallback((placed: PlacedLine, layer: Layer, words: WordRange | null) => {
    select(currentSong(), { kind: 'lines', lineIds: [placed.line.id] })
    chooseVoice(layer.id)
    useMix.setState({ words: words && { lineId: placed.line.id, ...words } })
    void play(placed.startFrame)
  }, [])
  if (kept === 0) return null
  const lines = placedLines(song)
  return (
    <Box mt={3} pt={2} borderTopWidth="1px" borderStyle="dashed" borderColor="seamline">
      <Text fontWeight={600}>{count(all.length, 'word is', 'words are')} thrown</Text>
      <Box as="ul" listStyleType="none" maxH="220px" overflowY="auto" tabIndex={0} aria-label="What is thrown">
        {all.map(({ layer, thrown, at }) => {
          const words = sayWords(at.placed, at.words)
          const space = song.spaces.find(({ id }) => id === thrown.spaceId)!
          return (
            <Flex as="li" key={thrown.id} align="center" gap={1} py="2px">
              <SmallButton aria-label={`Hear “${words}” with its line`} title="Hear it with its line" onClick={() => hear(at.placed, layer, at.words)}>
                <Play size={14} aria-hidden />
              </SmallButton>
              <Box flex="1" minW={0} truncate title={`${at.placed.section.name}, line ${lines.find(({ line }) => line.id === at.placed.line.id)!.number}`}>
                <b>{words}</b>{' '}
                <Box as="span" color="ink.soft" fontSize="13px">
                  {layer.name} into {space.name}, {formatDecibels(thrown.gainDecibels)}, {TAIL_WORDS[thrown.tail]}
                </Box>
              </Box>
              <SmallButton
                aria-label={`Take back “${words}”`}
                title="Take it back"
                onClick={() => edit(`take back “${words.slice(0, 30)}”`, current => removeThrows(current, { layerId: layer.id, throwIds: [thrown.id] }))}
              >
                <Trash2 size={14} aria-hidden />
              </SmallButton>
            </Flex>
          )
        })}
      </Box>
      {kept > all.length ? (
        <Text mt={1} color="ink.soft" fontSize="13px">
          {count(kept - all.length, 'more waits', 'more wait')} for words that are not on the sheet now.
        </Text>
      ) : null}
    </Box>
  )
}
