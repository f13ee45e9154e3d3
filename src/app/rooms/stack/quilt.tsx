/** The quilt: lines by layers as cloth; thick where takes are picked, thin where they wait, dotted where a voice is made, bare where nothing is. */
import { Box, chakra, Flex, Text } from '@chakra-ui/react'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { useMemo, useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import { madePhrases } from '../../../core/prints/made-voices'
import type { Layer, SectionId, Song } from '../../../core/song/schema'
import { lineState, lineTitle, placedLines, takesCovering, type FrameRange, type LineState, type PlacedLine } from '../../../core/song/select'
import { count } from '../../shared/format'
import { EmptyState, Well } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { select, useView } from '../../song/view-store'
import { ROLE_LOOKS } from '../../theme/roles'
import { useTheme } from '../../theme/theme-store'

type PatchState = LineState | 'made'

const Patch = chakra('button', {
  base: {
    display: 'flex',
    alignItems: 'center',
    width: '100%',
    height: '24px',
    borderRadius: '6px',
    cursor: 'pointer',
    _hover: { bg: 'card' },
  },
})

const Fold = chakra('button', { base: { display: 'flex', alignItems: 'center', gap: '4px', fontWeight: 600, fontSize: '13px', cursor: 'pointer' } })

export function Quilt() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const [folded, setFolded] = useState<ReadonlySet<SectionId>>(new Set())
  const lines = placedLines(song)
  const made = useMemo(() => new Map(song.layers.map(layer => [layer.id, madePhrases(song, layer)])), [song])
  if (lines.length === 0) return <EmptyState text="The sheet has no lines yet. Put the words on it with “Words” at the left, or lay lines without words." />
  const stateOf = (layer: Layer, line: PlacedLine): PatchState => {
    const state = lineState(song, layer, line)
    return state !== 'picked' && made.get(layer.id)!.some(phrase => liesIn(line, phrase)) ? 'made' : state
  }
  const fold = (id: SectionId) => setFolded(new Set(folded.has(id) ? [...folded].filter(other => other !== id) : [...folded, id]))
  return (
    <Well px={3} pt={0} pb={2} overflow="auto" maxH="312px" tabIndex={0} role="region" aria-label="Quilt: lines by layers">
      <Box as="table" width="100%" style={{ borderCollapse: 'separate', borderSpacing: '4px 2px' }}>
        <Box as="thead" position="sticky" top={0} bg="sunken" zIndex={1}>
          <tr>
            <Box as="th" textAlign="left" pt="10px">
              <Legend />
            </Box>
            {song.layers.map(layer => (
              <Box as="th" key={layer.id} fontWeight={600} fontSize="12px" textAlign="left" whiteSpace="nowrap" verticalAlign="bottom">
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
                  {song.layers.map(layer => {
                    const there = own.filter(line => stateOf(layer, line) === 'picked').length
                    return (
                      <Box as="td" key={layer.id} fontSize="11.5px" color="ink.soft">
                        {isFolded ? `${there} of ${own.length}` : null}
                      </Box>
                    )
                  })}
                </tr>
                {isFolded
                  ? null
                  : own.map(placed => {
                      const chosen = selection.kind === 'lines' && selection.lineIds.includes(placed.line.id)
                      return (
                        <tr key={placed.line.id}>
                          <Box
                            as="th"
                            textAlign="left"
                            fontWeight={chosen ? 600 : 400}
                            fontSize="13px"
                            maxW="230px"
                            pl="18px"
                            truncate
                            title={lineTitle(placed)}
                          >
                            {lineTitle(placed)}
                          </Box>
                          {song.layers.map(layer => (
                            <td key={layer.id}>
                              <LayerPatch song={song} layer={layer} placed={placed} state={stateOf(layer, placed)} />
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
  )
}

/** A phrase begins before its line and ends after it: its middle says whose it is. */
function liesIn(line: FrameRange, phrase: FrameRange): boolean {
  const middle = (phrase.startFrame + phrase.endFrame) / 2
  return middle >= line.startFrame && middle < line.endFrame
}

const STATE_WORDS: Record<PatchState, string> = { picked: 'picked', sung: 'takes wait', made: 'a made voice sings', missing: 'nothing sung' }

function LayerPatch({ song, layer, placed, state }: { song: Song; layer: Layer; placed: PlacedLine; state: PatchState }) {
  const navigate = useNavigate()
  const { songId } = useParams()
  const takes = takesCovering(song, layer.id, placed).length
  const words = takes === 0 ? STATE_WORDS[state] : `${STATE_WORDS[state]}, ${count(takes, 'take')} of its own`
  return (
    <Patch
      type="button"
      aria-label={`${lineTitle(placed)}, ${layer.name}: ${words}`}
      title={words}
      onClick={() => {
        select(song, { kind: 'lines', lineIds: [placed.line.id] })
        useView.setState({ layerId: layer.id })
        void navigate(`/song/${songId}/${state === 'missing' || state === 'made' ? 'booth' : 'comp'}`)
      }}
    >
      <Cloth role={layer.tint} state={state} />
    </Patch>
  )
}

function Cloth({ role, state }: { role: Layer['tint']; state: PatchState }) {
  const theme = useTheme(store => store.theme)
  const look = ROLE_LOOKS[role]
  const [core, halo] = theme === 'day' ? [look.day, look.dayHalo] : [look.night, look.nightHalo]
  const thread = theme === 'day' ? '#FFFBF5' : '#1C141F'
  const stitch = look.dashes.length > 0 ? look.dashes.join(' ') : undefined
  return (
    <svg width="100%" height="20" aria-hidden preserveAspectRatio="none">
      {state === 'picked' ? (
        <>
          <rect x="0" y="1" width="100%" height="18" rx="5" fill={core} />
          <line x1="5%" x2="95%" y1="10" y2="10" stroke={thread} strokeOpacity="0.75" strokeWidth="1.5" strokeDasharray={stitch} />
        </>
      ) : state === 'sung' ? (
        <rect x="0" y="6" width="100%" height="8" rx="4" fill={halo} />
      ) : state === 'made' ? (
        <rect x="1" y="2" width="97%" height="16" rx="5" fill="none" stroke={core} strokeWidth="2" strokeDasharray="1 5" strokeLinecap="round" />
      ) : (
        <line x1="42%" x2="58%" y1="10" y2="10" stroke="var(--chakra-colors-seamline)" strokeWidth="2" strokeLinecap="round" />
      )}
    </svg>
  )
}

const LEGEND: { state: PatchState; text: string }[] = [
  { state: 'picked', text: 'picked' },
  { state: 'sung', text: 'takes wait' },
  { state: 'made', text: 'made' },
]

function Legend() {
  return (
    <Flex gap={3} fontWeight={400}>
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
