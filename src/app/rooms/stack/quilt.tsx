/**
 * The quilt: lines by layers as cloth; thick where takes are picked, thin where they wait, an open hem where the plan wants something and
 * nothing is there, bare where nothing is wanted. What is late, out of tune, used twice or made says so on its patch.
 */
import { Box, chakra, Flex, Text } from '@chakra-ui/react'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { useEffect, useMemo, useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import { create } from 'zustand'
import { isMadeIn, setWanted, usualPlan, type Wanted } from '../../../core/stack/wanted'
import type { Layer, LineId, SectionId, Song } from '../../../core/song/schema'
import { lineState, lineTitle, placedLines, takesCovering, type PlacedLine } from '../../../core/song/select'
import { count } from '../../shared/format'
import { EmptyState, Well } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { select, useView } from '../../song/view-store'
import { Cloth, type PatchState } from './cloth'
import { markWord, markWords, stateWords } from './patch-words'
import { useStack } from './stack-store'
import { useMarks } from './use-marks'

const Patch = chakra('button', {
  base: {
    display: 'block',
    position: 'relative',
    width: '100%',
    height: '24px',
    borderRadius: '6px',
    cursor: 'pointer',
    _hover: { bg: 'card' },
  },
})

const Fold = chakra('button', { base: { display: 'flex', alignItems: 'center', gap: '4px', fontWeight: 600, fontSize: '13px', cursor: 'pointer' } })
const Whole = chakra('button', {
  base: {
    width: '100%',
    textAlign: 'left',
    fontSize: '11.5px',
    color: 'ink.soft',
    cursor: 'pointer',
    borderRadius: '6px',
    px: '3px',
    _hover: { bg: 'card' },
  },
})

/** The words of the patch that has the focus, or the pointer over it; apart from the quilt, which is much to draw. */
const useTold = create<{ of: string | null; words: string }>(() => ({ of: null, words: '' }))

function Told() {
  const words = useTold(state => (state.of === null ? '' : state.words))
  return (
    <Text aria-hidden color="ink.soft" fontSize="13px" height="20px" mt="-6px" px={3} truncate>
      {words}
    </Text>
  )
}

export function Quilt() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const isPlanning = useStack(state => state.sheet === 'plan')
  const [folded, setFolded] = useState<ReadonlySet<SectionId>>(new Set())
  const lines = useMemo(() => placedLines(song), [song])
  const marksAt = useMarks(song, lines)
  // Until there is a plan the usual one is shown as a proposal, where one would write it.
  const proposed = useMemo(() => (isPlanning && song.layers.every(layer => layer.wanted.length === 0) ? usualPlan(song) : null), [song, isPlanning])
  if (lines.length === 0) return <EmptyState text="The sheet has no lines yet. Put the words on it with “Words” at the left, or lay lines without words." />
  const fold = (id: SectionId) => setFolded(new Set(folded.has(id) ? [...folded].filter(other => other !== id) : [...folded, id]))
  return (
    <>
      <Well px={3} pt={0} pb={2} overflow="auto" maxH="310px" tabIndex={0} role="region" aria-label="Quilt: lines by layers">
        <Box
          as="table"
          width="100%"
          style={{ borderCollapse: 'separate', borderSpacing: '4px 2px', tableLayout: 'fixed', minWidth: 240 + 62 * song.layers.length }}
        >
          <Box as="thead" position="sticky" top={0} bg="sunken" zIndex={1}>
            <tr>
              <Box as="th" textAlign="left" pt="10px" width="232px">
                <Legend />
              </Box>
              {song.layers.map(layer => (
                <Box as="th" key={layer.id} fontWeight={600} fontSize="12px" textAlign="left" truncate verticalAlign="bottom" title={layer.name}>
                  {layer.name}
                </Box>
              ))}
            </tr>
          </Box>
          {song.sections
            .filter(section => section.lines.length > 0)
            .map(section => {
              const own = lines.filter(placed => placed.section.id === section.id)
              const isFolded = folded.has(section.id)
              return (
                <tbody key={section.id}>
                  <tr>
                    <Box as="th" textAlign="left" pt="4px">
                      <Fold type="button" aria-expanded={!isFolded} onClick={() => fold(section.id)}>
                        {isFolded ? <ChevronRight size={14} aria-hidden /> : <ChevronDown size={14} aria-hidden />} {section.name}
                      </Fold>
                    </Box>
                    {song.layers.map(layer => (
                      <Box as="td" key={layer.id} fontSize="11.5px" color="ink.soft">
                        <SectionCell layer={layer} lines={own} song={song} isFolded={isFolded} isPlanning={isPlanning} />
                      </Box>
                    ))}
                  </tr>
                  {isFolded
                    ? null
                    : own.map(placed => {
                        const chosen = selection.kind === 'lines' && selection.lineIds.includes(placed.line.id)
                        return (
                          <tr key={placed.line.id}>
                            <Box as="th" textAlign="left" fontWeight={chosen ? 600 : 400} fontSize="13px" pl="18px" truncate title={lineTitle(placed)}>
                              {lineTitle(placed)}
                            </Box>
                            {song.layers.map(layer => (
                              <td key={layer.id}>
                                <LayerPatch
                                  song={song}
                                  layer={layer}
                                  placed={placed}
                                  marks={marksAt(layer, placed)}
                                  proposed={proposed}
                                  isPlanning={isPlanning}
                                />
                              </td>
                            ))}
                          </tr>
                        )
                      })}
                </tbody>
              )
            })}
        </Box>
      </Well>
      <Told />
    </>
  )
}

function stateOf(song: Song, layer: Layer, line: PlacedLine, proposed: Wanted | null): PatchState {
  const state = lineState(song, layer, line)
  if (state !== 'picked' && isMadeIn(song, layer, line)) return 'made'
  if (state !== 'missing') return state
  if (layer.wanted.includes(line.line.id)) return 'wanted'
  return proposed?.get(layer.id)?.includes(line.line.id) ? 'proposed' : 'bare'
}

/** Of a section as a whole: how many of its lines are there, or, while the plan is written, whether the layer is to sing it. */
function SectionCell({
  song,
  layer,
  lines,
  isFolded,
  isPlanning,
}: {
  song: Song
  layer: Layer
  lines: readonly PlacedLine[]
  isFolded: boolean
  isPlanning: boolean
}) {
  const there = lines.filter(line => lineState(song, layer, line) === 'picked').length
  const ids = lines.map(({ line }) => line.id)
  const wanted = ids.filter(id => layer.wanted.includes(id)).length
  if (!isPlanning) return isFolded ? `${there} of ${lines.length}` : null
  const isWhole = wanted === ids.length
  const section = lines[0]!.section.name
  return (
    <Whole
      type="button"
      aria-pressed={isWhole}
      aria-label={`${section}, ${layer.name}: ${wanted} of ${ids.length} lines wanted`}
      onClick={() => want(layer, ids, !isWhole, section)}
    >
      {isFolded ? `${there} of ${wanted} wanted` : isWhole ? 'none' : 'all'}
    </Whole>
  )
}

function want(layer: Layer, lineIds: readonly LineId[], wanted: boolean, where: string): void {
  edit(`${layer.name}: ${wanted ? 'wanted' : 'not wanted'} in ${where}`, song => setWanted(song, { layerId: layer.id, lineIds, wanted }))
}

function LayerPatch({
  song,
  layer,
  placed,
  marks,
  proposed,
  isPlanning,
}: {
  song: Song
  layer: Layer
  placed: PlacedLine
  marks: ReturnType<ReturnType<typeof useMarks>>
  proposed: Wanted | null
  isPlanning: boolean
}) {
  const navigate = useNavigate()
  const { songId } = useParams()
  const state = stateOf(song, layer, placed, proposed)
  const isWanted = layer.wanted.includes(placed.line.id)
  const takes = takesCovering(song, layer.id, placed).length
  const words = [stateWords(state, isWanted), takes > 0 ? `${count(takes, 'take')} of its own` : null, ...marks.map(mark => markWords(song, mark))]
    .filter(word => word !== null)
    .join(', ')
  const inFull = `${lineTitle(placed)}, ${layer.name}: ${words}`
  const key = `${layer.id} ${placed.line.id}`
  const look = () => useTold.setState({ of: key, words: inFull })
  const lookAway = () => useTold.setState({ of: null })
  // What is found out while one looks at it is told too.
  useEffect(() => {
    if (useTold.getState().of === key) useTold.setState({ words: inFull })
  }, [key, inFull])
  const [mark] = marks
  const label = state === 'made' ? 'made' : mark ? markWord(mark) : null
  const open = () => {
    select(song, { kind: 'lines', lineIds: [placed.line.id] })
    useView.setState({ layerId: layer.id })
    void navigate(`/song/${songId}/${state === 'picked' || state === 'sung' ? 'comp' : 'booth'}`)
  }
  return (
    <Patch
      type="button"
      aria-label={inFull}
      onFocus={look}
      onBlur={lookAway}
      onMouseEnter={look}
      onMouseLeave={lookAway}
      {...(isPlanning ? { 'aria-pressed': isWanted } : {})}
      onClick={() => (isPlanning ? want(layer, [placed.line.id], !isWanted, lineTitle(placed)) : open())}
    >
      <Cloth role={layer.tint} state={state} isWanted={isPlanning && isWanted} />
      {label ? (
        <Box
          position="absolute"
          right="3px"
          top="4px"
          px="4px"
          borderRadius="4px"
          fontSize="10.5px"
          lineHeight="15px"
          fontWeight={600}
          bg="card"
          color={state === 'made' ? 'ink.soft' : 'warn'}
          aria-hidden
        >
          {label}
        </Box>
      ) : null}
    </Patch>
  )
}

const LEGEND: { state: PatchState; text: string }[] = [
  { state: 'picked', text: 'picked' },
  { state: 'sung', text: 'takes wait' },
  { state: 'wanted', text: 'to sing' },
]

function Legend() {
  return (
    <Flex gap={2} fontWeight={400} align="center">
      {LEGEND.map(({ state, text }) => (
        <Flex key={state} align="center" gap="5px" whiteSpace="nowrap">
          <Box width="22px" lineHeight={0}>
            <Cloth role="lead" state={state} />
          </Box>
          <Text as="span" fontSize="12px" color="ink.soft">
            {text}
          </Text>
        </Flex>
      ))}
    </Flex>
  )
}
