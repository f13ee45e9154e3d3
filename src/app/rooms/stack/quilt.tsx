/** The quilt: lines by layers, each patch saying what is there. */
import { Box, chakra } from '@chakra-ui/react'
import { useNavigate, useParams } from 'react-router'
import { lineState, lineTitle, placedLines, takesCovering } from '../../../core/song/select'
import { EmptyState, Well } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { select, useView } from '../../song/view-store'
import { ROLE_LOOKS } from '../../theme/roles'
import { useTheme } from '../../theme/theme-store'

const Patch = chakra('button', {
  base: { display: 'block', width: '100%', height: '22px', borderRadius: '6px', fontSize: '11px', cursor: 'pointer', whiteSpace: 'nowrap', overflow: 'hidden' },
})

export function Quilt() {
  const song = useSong(current => current)
  const theme = useTheme(state => state.theme)
  const selection = useView(state => state.selection)
  const navigate = useNavigate()
  const { songId } = useParams()
  const lines = placedLines(song)
  if (lines.length === 0) return <EmptyState text="The sheet has no lines yet. Put the words on it with “Words” at the left, or lay lines without words." />
  return (
    <Well px={3} pt={0} pb={2} overflow="auto" maxH="312px" tabIndex={0} role="region" aria-label="Quilt: lines by layers">
      <Box as="table" width="100%" style={{ borderCollapse: 'separate', borderSpacing: '3px' }}>
        <Box as="thead" position="sticky" top={0} bg="sunken" zIndex={1}>
          <tr>
            <Box as="th" textAlign="left" fontWeight={500} color="ink.soft" fontSize="12px" pt="10px">
              Line
            </Box>
            {song.layers.map(layer => (
              <Box as="th" key={layer.id} fontWeight={600} fontSize="12px" textAlign="left" whiteSpace="nowrap">
                {layer.name}
              </Box>
            ))}
          </tr>
        </Box>
        <tbody>
          {lines.map(placed => {
            const chosen = selection.kind === 'lines' && selection.lineIds.includes(placed.line.id)
            return (
              <tr key={placed.line.id}>
                <Box as="th" textAlign="left" fontWeight={chosen ? 600 : 400} fontSize="13px" maxW="210px" truncate title={lineTitle(placed)}>
                  {lineTitle(placed)}
                </Box>
                {song.layers.map(layer => {
                  const state = lineState(song, layer, placed)
                  const takes = takesCovering(song, layer.id, placed).length
                  const look = ROLE_LOOKS[layer.tint]
                  const style =
                    state === 'picked'
                      ? { background: theme === 'day' ? look.day : look.night, color: theme === 'day' ? '#FFFBF5' : '#1C141F' }
                      : state === 'sung'
                        ? { background: theme === 'day' ? look.dayHalo : look.nightHalo }
                        : {}
                  return (
                    <td key={layer.id}>
                      <Patch
                        style={style}
                        borderWidth={state === 'missing' ? '1px' : 0}
                        borderStyle="dashed"
                        borderColor="seamline"
                        color={state === 'missing' ? 'ink.soft' : 'ink'}
                        aria-label={`${lineTitle(placed)}, ${layer.name}: ${state}, takes: ${takes}`}
                        onClick={() => {
                          select(song, { kind: 'lines', lineIds: [placed.line.id] })
                          useView.setState({ layerId: layer.id })
                          void navigate(`/song/${songId}/${state === 'missing' ? 'booth' : 'comp'}`)
                        }}
                      >
                        {state === 'missing' ? 'missing' : state === 'sung' ? `sung ${takes}` : 'picked'}
                      </Patch>
                    </td>
                  )
                })}
              </tr>
            )
          })}
        </tbody>
      </Box>
    </Well>
  )
}
