/** Colours: words, lines or sections of a voice that sound like something else. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { Play, Trash2 } from 'lucide-react'
import { useCallback, useState } from 'react'
import { addColour, coloursSung, removeColours, setColour, type ColourPlace } from '../../../core/mix/colours'
import { COLOUR_NAMES, stepsOfColour, type ColourName } from '../../../core/mix/named-recipes'
import { recipeAt } from '../../../core/mix/recipes'
import { anchoredWords } from '../../../core/song/anchor'
import { COLOUR_FADE_RANGE_SECONDS, type Colour, type RecipeStep } from '../../../core/song/mix-schema'
import type { Layer, Song } from '../../../core/song/schema'
import { placedLines, type PlacedLine } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { count } from '../../shared/format'
import { Card, CardTitle, Pill, SmallButton } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { play } from '../../song/live'
import { currentSong, edit, useSong } from '../../song/song-store'
import { focusedLine, select, useView } from '../../song/view-store'
import { chosenVoice, chosenWords, LineWords, sayWords } from './line-words'
import { OnlyWords } from './only-words'
import { SheetHead } from './sheet-head'
import { useMix } from './mix-store'
import { STEP_NAMES } from './setting-words'

type Reach = 'words' | 'line' | 'section'
const REACHES: [Reach, string][] = [
  ['words', 'the words'],
  ['line', 'the line'],
  ['section', 'the section'],
]

function placeOf(placed: PlacedLine, reach: Reach): ColourPlace {
  if (reach === 'section') return { sectionId: placed.section.id }
  return { lineId: placed.line.id, words: reach === 'words' ? chosenWords(placed) : null }
}

export function ColoursSheet() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  // Drawn anew when other words or another voice are chosen.
  useMix(state => state.words)
  useMix(state => state.layerId)
  const [reach, setReach] = useState<Reach>('words')
  const layer = chosenVoice(song)
  const placed = focusedLine(song, selection)
  if (!layer) {
    return (
      <Card p={3}>
        <CardTitle>Colours</CardTitle>
        <Text color="ink.soft">No voice has a word to colour yet.</Text>
      </Card>
    )
  }
  const colour = (name: string, steps: readonly RecipeStep[]) => {
    if (placed) edit(`colour it: ${name}`, current => addColour(current, { layerId: layer.id, on: placeOf(placed, reach), name, steps, makeId }))
  }
  const marked = anchoredWords(
    layer.colours.flatMap(({ on }) => ('lineId' in on ? [on] : [])),
    placedLines(song),
  )
  const own = recipeAt(song, { kind: 'all' }).steps
  return (
    <Card p={3}>
      <SheetHead title="Colours" layer={layer} />
      {placed ? (
        <>
          <LineWords
            placed={placed}
            chosen={reach === 'words' ? chosenWords(placed) : null}
            marked={marked.get(placed.line.id) ?? []}
            said="coloured"
            mark={<ColouredMark />}
          />
          <Flex mt={3} gap="6px" role="group" aria-label="How much is coloured">
            {REACHES.map(([kind, label]) => (
              <Pill key={kind} size="xs" px={3} chosen={reach === kind} onClick={() => setReach(kind)}>
                {label}
              </Pill>
            ))}
            {reach === 'words' ? <OnlyWords size="xs" layer={layer} placed={placed} words={chosenWords(placed)} /> : null}
          </Flex>
          <Flex mt={2} gap="6px" wrap="wrap" align="center" role="group" aria-label="Colour it">
            <Text color="ink.soft" fontSize="12px">
              Colour it
            </Text>
            {COLOUR_NAMES.map((name: ColourName) => (
              <Pill key={name} size="xs" px={3} onClick={() => colour(name, stepsOfColour(name, makeId))}>
                {name}
              </Pill>
            ))}
            {own.length > 0 ? (
              <Pill
                size="xs"
                px={3}
                title="The steps that lie on all voices, here once more"
                onClick={() =>
                  colour(
                    'own',
                    own.map(step => ({ ...step, id: makeId() as RecipeStep['id'] })),
                  )
                }
              >
                the recipe of all voices
              </Pill>
            ) : null}
          </Flex>
        </>
      ) : (
        <Text mt={2} color="ink.soft">
          A word, a line or a section sounds like a radio, far away, broken … Choose a line on the sheet.
        </Text>
      )}
      <AllColours song={song} layer={layer} />
    </Card>
  )
}

function ColouredMark() {
  return <Box as="span" aria-hidden display="inline-block" ml="5px" width="8px" height="8px" borderRadius="2px" bg="brand" transform="rotate(45deg)" />
}

function AllColours({ song, layer }: { song: Song; layer: Layer }) {
  const [opened, setOpened] = useState<string | null>(null)
  const all = coloursSung(song, layer)
  if (layer.colours.length === 0) return null
  return (
    <Box mt={3} pt={2} borderTopWidth="1px" borderStyle="dashed" borderColor="seamline">
      <Text fontWeight={600}>
        {count(all.length, 'stretch is', 'stretches are')} coloured in {layer.name}
      </Text>
      <Box as="ul" listStyleType="none" aria-label={`Coloured in ${layer.name}`}>
        {all.map(({ colour }) => (
          <ColourRow
            key={colour.id}
            song={song}
            layer={layer}
            colour={colour}
            open={opened === colour.id}
            onOpen={() => setOpened(opened === colour.id ? null : colour.id)}
          />
        ))}
      </Box>
      {layer.colours.length > all.length ? (
        <Text mt={1} color="ink.soft" fontSize="13px">
          {count(layer.colours.length - all.length, 'more waits', 'more wait')} for words that are not on the sheet now.
        </Text>
      ) : null}
    </Box>
  )
}

/** What a colour lies on, as it is said, and the line that it begins with. */
function whereOf(song: Song, { on }: Colour): { words: string; placed: PlacedLine | null } {
  if ('sectionId' in on) {
    const section = song.sections.find(({ id }) => id === on.sectionId)
    return { words: section?.name ?? '', placed: null }
  }
  const placed = focusedLine(song, { kind: 'lines', lineIds: [on.lineId] })
  return { words: on.words?.text ?? (placed ? sayWords(placed, null) : ''), placed }
}

function ColourRow({ song, layer, colour, open, onOpen }: { song: Song; layer: Layer; colour: Colour; open: boolean; onOpen: () => void }) {
  const { id, name, amount, fadeSeconds, steps, on } = colour
  const { words } = whereOf(song, colour)
  const setAmount = useCallback(
    (current: Song, percent: number) => setColour(current, { layerId: layer.id, colourId: id, amount: percent / 100 }),
    [layer.id, id],
  )
  const setFade = useCallback(
    (current: Song, milliseconds: number) => setColour(current, { layerId: layer.id, colourId: id, fadeSeconds: milliseconds / 1_000 }),
    [layer.id, id],
  )
  const hear = () => {
    const at = coloursSung(currentSong(), layer).find(entry => entry.colour.id === id)?.at
    if ('lineId' in on) select(currentSong(), { kind: 'lines', lineIds: [on.lineId] })
    else select(currentSong(), { kind: 'section', sectionId: on.sectionId })
    if (at) void play(Math.max(0, at.startFrame - 48_000))
  }
  return (
    <Box as="li" py="2px">
      <Flex align="center" gap={1}>
        <SmallButton aria-label={`Hear “${words}”, ${name}`} title="Hear it" onClick={hear}>
          <Play size={14} aria-hidden />
        </SmallButton>
        <Box flex="1" minW={0} truncate>
          <b>{words}</b>{' '}
          <Box as="span" color="ink.soft" fontSize="13px">
            {name}, {Math.round(100 * amount)} %
          </Box>
        </Box>
        <Pill size="xs" px={3} chosen={open} aria-expanded={open} aria-label={`Open “${words}”, ${name}`} onClick={onOpen}>
          Open
        </Pill>
        <SmallButton
          aria-label={`Take the colour off “${words}”`}
          title="Take it off"
          onClick={() => edit(`take a colour off`, current => removeColours(current, { layerId: layer.id, colourIds: [id] }))}
        >
          <Trash2 size={14} aria-hidden />
        </SmallButton>
      </Flex>
      {open ? (
        <Flex direction="column" gap="5px" my={2} pl={2}>
          <SongSlider
            label={`${name} of “${words}”: how much`}
            showLabel="How much"
            value={100 * amount}
            min={0}
            max={100}
            step={1}
            digits={0}
            unit="%"
            stepLabel="set how much of a colour"
            command={setAmount}
          />
          <SongSlider
            label={`${name} of “${words}”: fades in`}
            showLabel="Fades in"
            value={1_000 * fadeSeconds}
            min={1_000 * COLOUR_FADE_RANGE_SECONDS.min}
            max={1_000 * COLOUR_FADE_RANGE_SECONDS.max}
            step={5}
            digits={0}
            unit="ms"
            stepLabel="set how softly a colour begins"
            command={setFade}
          />
          <Flex gap="6px" wrap="wrap" align="center">
            <Text color="ink.soft" fontSize="12px">
              instead
            </Text>
            {COLOUR_NAMES.filter(other => other !== name).map(other => (
              <Pill
                key={other}
                size="xs"
                px={3}
                onClick={() =>
                  edit(`colour it: ${other}`, current =>
                    setColour(current, { layerId: layer.id, colourId: id, as: { name: other, steps: stepsOfColour(other, makeId) } }),
                  )
                }
              >
                {other}
              </Pill>
            ))}
          </Flex>
          <Text color="ink.soft" fontSize="13px">
            {steps.map(step => STEP_NAMES[step.kind].toLowerCase()).join(', then ')}
          </Text>
        </Flex>
      ) : null}
    </Box>
  )
}
