/** The song sheet: sections hold lines; each line shows what every layer has for it. */
import { Box, chakra, Flex } from '@chakra-ui/react'
import { memo, useDeferredValue } from 'react'
import { PanelLeftClose, PanelLeftOpen, Pencil, RotateCcw } from 'lucide-react'
import { anchoredWords, type WordRange } from '../../core/song/anchor'
import { lineState, lineTitle, placedLines, sectionRange, type LineState, type PlacedLine } from '../../core/song/select'
import type { Layer, LineId, Section } from '../../core/song/schema'
import { count } from '../shared/format'
import { currentSong, useSong } from '../song/song-store'
import { select, useView } from '../song/view-store'
import { ROLE_LOOKS } from '../theme/roles'
import { useTheme } from '../theme/theme-store'
import { SmallButton } from '../shared/parts'
import { FirstSongHint } from './first-song-hint'
import { useLineDialog } from './line-dialog'
import { endsOf, MarkedWords, thrownText } from './marked-words'
import { WordsDialog } from './words-dialog'

const SheetButton = chakra('button', {
  base: {
    display: 'block',
    width: '100%',
    textAlign: 'left',
    cursor: 'pointer',
    borderRadius: '10px',
    px: '10px',
    py: '6px',
    position: 'relative',
    _hover: { bg: 'card' },
  },
})

export function SheetPanel({ folded }: { folded: boolean }) {
  // Every line says what each layer has for it: much to ask, and it gives way to what the singer does.
  const song = useDeferredValue(useSong(current => current))
  const selection = useView(state => state.selection)
  const toggle = () => useView.setState(state => ({ sheetFolded: !state.sheetFolded }))
  const lines = placedLines(song)
  const thrown = anchoredWords(
    song.layers.flatMap(layer => layer.throws.map(({ on }) => on)),
    lines,
  )
  if (folded) {
    return (
      <Flex justify="center" pt={3}>
        <WordsDialog withButton={false} />
        <FoldButton folded onClick={toggle} />
      </Flex>
    )
  }
  return (
    <Box p="12px 12px 24px">
      <Flex align="center" justify="space-between" gap={2} mb={1}>
        <SheetButton
          width="auto"
          flex="1 1 auto"
          whiteSpace="nowrap"
          aria-pressed={selection.kind === 'song'}
          color={selection.kind === 'song' ? 'ink' : 'ink.soft'}
          fontWeight={selection.kind === 'song' ? 600 : 400}
          onClick={() => select(song, { kind: 'song' })}
        >
          Whole song
        </SheetButton>
        <WordsDialog withButton />
        <FoldButton folded={false} onClick={toggle} />
      </Flex>
      <SingAgainList lines={lines} />
      {song.sections.map(section => (
        <SheetSection
          key={section.id}
          section={section}
          lines={lines.filter(placed => placed.section.id === section.id)}
          layers={song.layers}
          thrown={thrown}
        />
      ))}
      <FirstSongHint />
    </Box>
  )
}

/** What is to be sung again, of any layer: each goes to its line. */
function SingAgainList({ lines }: { lines: PlacedLine[] }) {
  const song = useSong(current => current)
  const marks = song.layers.flatMap(layer =>
    layer.singAgain.flatMap(mark => {
      const line = lines.find(placed => placed.line.id === mark.lineId)
      return line ? [{ layer, line, note: mark.note }] : []
    }),
  )
  if (marks.length === 0) return null
  return (
    <Box as="details" mt={1} px="10px" data-sing-again>
      <Box as="summary" cursor="pointer" color="warn" fontWeight={600}>
        Sing again ({marks.length})
      </Box>
      {marks.map(({ layer, line, note }) => (
        <SheetButton
          key={`${layer.id}/${line.line.id}`}
          onClick={() => {
            select(song, { kind: 'lines', lineIds: [line.line.id] })
            useView.setState({ layerId: layer.id })
          }}
        >
          <Box truncate>{lineTitle(line)}</Box>
          <Box truncate color="ink.soft" fontSize="12px">
            {layer.name}
            {note ? `: ${note}` : ''}
          </Box>
        </SheetButton>
      ))}
    </Box>
  )
}

function FoldButton({ folded, onClick }: { folded: boolean; onClick: () => void }) {
  const Icon = folded ? PanelLeftOpen : PanelLeftClose
  return (
    <chakra.button
      onClick={onClick}
      aria-label={folded ? 'Unfold the sheet' : 'Fold the sheet'}
      aria-expanded={!folded}
      color="ink.soft"
      p={1}
      cursor="pointer"
      borderRadius="6px"
    >
      <Icon size={18} aria-hidden />
    </chakra.button>
  )
}

interface SheetSectionProps {
  section: Section
  lines: PlacedLine[]
  layers: Layer[]
  thrown: ReadonlyMap<LineId, WordRange[]>
}

function SheetSection({ section, lines, layers, thrown }: SheetSectionProps) {
  const song = useSong(current => current)
  const selected = useView(state => state.selection.kind === 'section' && state.selection.sectionId === section.id)
  const isBeyond = sectionRange(song, section).startFrame >= song.beat.frames
  return (
    <Box mt={3}>
      <SheetButton aria-pressed={selected} bg={selected ? 'card' : 'transparent'} onClick={() => select(song, { kind: 'section', sectionId: section.id })}>
        {selected ? <Stitch /> : null}
        <Flex justify="space-between" align="baseline" gap={2}>
          <Box fontFamily="heading" fontWeight={600} fontSize="16px" truncate>
            {section.name}
          </Box>
          <Box color={isBeyond ? 'warn' : 'ink.soft'} fontSize="12px" whiteSpace="nowrap" title={isBeyond ? 'The beat ends before its first bar' : undefined}>
            {isBeyond ? 'beyond the beat, ' : ''}
            {section.barCount === 1 ? `bar ${section.startBar}` : `bars ${section.startBar} to ${section.startBar + section.barCount - 1}`}
          </Box>
        </Flex>
      </SheetButton>
      {lines.map(placed => (
        <SheetLine
          key={placed.line.id}
          placed={placed}
          layers={layers}
          states={layers.map(layer => lineState(song, layer, placed))}
          thrown={endsOf(thrown.get(placed.line.id))}
          again={layers.some(layer => layer.singAgain.some(mark => mark.lineId === placed.line.id))}
        />
      ))}
    </Box>
  )
}

interface SheetLineProps {
  placed: PlacedLine
  layers: Layer[]
  states: LineState[]
  again: boolean
  /** As `endsOf` has it: one value for a memo to compare. */
  thrown: string
}

/** There are many lines and most changes touch one: the others are not drawn again. */
const SheetLine = memo(function SheetLine({ placed, layers, states: stateOf, again, thrown }: SheetLineProps) {
  const selected = useView(state => state.selection.kind === 'lines' && state.selection.lineIds.includes(placed.line.id))
  const states = layers.map((layer, i) => ({ layer, state: stateOf[i]! }))
  const words = lineTitle(placed)
  const onClick = (event: React.MouseEvent) => {
    const song = currentSong()
    const { selection } = useView.getState()
    if ((event.shiftKey || event.ctrlKey || event.metaKey) && selection.kind === 'lines') {
      const lineIds = selected ? selection.lineIds.filter(id => id !== placed.line.id) : [...selection.lineIds, placed.line.id]
      if (lineIds.length > 0) select(song, { kind: 'lines', lineIds })
    } else select(song, { kind: 'lines', lineIds: [placed.line.id] })
  }
  return (
    <Box position="relative">
      <SheetButton
        aria-pressed={selected}
        bg={selected ? 'card' : 'transparent'}
        boxShadow={selected ? 'card' : 'none'}
        onClick={onClick}
        aria-label={`${words}. ${summarise(states)}${again ? '; to sing again' : ''}${thrown ? `; thrown: ${thrownText(placed, thrown)}` : ''}`}
        data-line={placed.line.id}
      >
        {selected ? <Stitch /> : null}
        <Box truncate color={placed.line.words ? 'ink' : 'ink.soft'}>
          {again ? <RotateCcw size={12} aria-hidden style={{ display: 'inline', marginRight: 5, color: 'var(--chakra-colors-warn)' }} /> : null}
          {thrown ? <MarkedWords placed={placed} thrown={thrown} /> : placed.line.words || `line ${placed.number}`}
        </Box>
        <Flex gap="5px" mt="4px" aria-hidden>
          {states.map(({ layer, state }) => (
            <LayerMark key={layer.id} layer={layer} state={state} />
          ))}
        </Flex>
      </SheetButton>
      {selected ? (
        <SmallButton
          position="absolute"
          top="5px"
          right="6px"
          p="6px"
          bg="card"
          aria-label={`Change the line “${words}”`}
          title="Its words, start and length; split, join (D)"
          onClick={() => {
            select(currentSong(), { kind: 'lines', lineIds: [placed.line.id] })
            useLineDialog.setState({ open: true })
          }}
        >
          <Pencil size={13} aria-hidden />
        </SmallButton>
      ) : null}
    </Box>
  )
}, sameLine)

function sameLine(a: SheetLineProps, b: SheetLineProps): boolean {
  return (
    a.placed.line === b.placed.line &&
    a.placed.number === b.placed.number &&
    a.placed.section.name === b.placed.section.name &&
    a.again === b.again &&
    a.thrown === b.thrown &&
    a.states.every((state, i) => state === b.states[i]) &&
    a.layers.length === b.layers.length &&
    a.layers.every((layer, i) => layer.tint === b.layers[i]!.tint && layer.name === b.layers[i]!.name)
  )
}

/** The dashed line inside a selected card. */
function Stitch() {
  return (
    <Box
      aria-hidden
      position="absolute"
      inset="4px"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="brand"
      borderRadius="8px"
      opacity={0.7}
      pointerEvents="none"
    />
  )
}

/** Picked: the layer's stitch in its colour. Sung: a thin line of it. Missing: a plain one. */
function LayerMark({ layer, state }: { layer: Layer; state: LineState }) {
  const theme = useTheme(current => current.theme)
  const look = ROLE_LOOKS[layer.tint]
  const colour = state === 'missing' ? 'var(--chakra-colors-seamline)' : theme === 'day' ? look.day : look.night
  return (
    <svg width={21} height={4} viewBox="0 0 21 4">
      <line
        x1={0}
        x2={21}
        y1={2}
        y2={2}
        stroke={colour}
        strokeWidth={state === 'sung' ? 1 : 3}
        {...(state === 'picked' && look.dashes.length > 0 ? { strokeDasharray: look.dashes.map(dash => dash * 0.75).join(' ') } : {})}
      />
    </svg>
  )
}

function summarise(states: { layer: Layer; state: LineState }[]): string {
  if (states.length === 0) return 'No layers yet'
  const named = (state: LineState) => states.filter(entry => entry.state === state).map(entry => entry.layer.name)
  const [picked, sung] = [named('picked'), named('sung')]
  const parts = [picked.length > 0 ? `picked: ${picked.join(', ')}` : null, sung.length > 0 ? `sung: ${sung.join(', ')}` : null].filter(Boolean)
  return parts.length > 0 ? parts.join('; ') : `nothing sung in ${count(states.length, 'layer')}`
}
