/** Comp: which take is best here? */
import { Box, Flex, NativeSelect } from '@chakra-ui/react'
import { useEffect, useMemo } from 'react'
import { barAtFrame } from '../../../core/beat/grid'
import type { LayerId } from '../../../core/song/schema'
import { lineTitle, type FrameRange, type PlacedLine } from '../../../core/song/select'
import { count, formatDecibels } from '../../shared/format'
import { EmptyState, KeyCap, Pill, PrimaryButton, RoomHeading, Well } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { focusedLine, useView } from '../../song/view-store'
import { LineBench } from './line-bench'
import { useComping, type Hearing } from './use-comping'

export function CompRoom() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const line = focusedLine(song, selection)
  if (song.layers.length === 0) return <EmptyState text="There are no layers yet. Lay out the vocal template in the Beat room, then sing in the Booth." />
  if (!line) return <EmptyState text="Choose a line on the sheet to see its takes. If the sheet has no lines yet, put the words on it with “Words”." />
  return <LineComp line={line} />
}

const HEARINGS: { hearing: Hearing; name: string; key: string }[] = [
  { hearing: 'alone', name: 'Alone', key: 'A' },
  { hearing: 'beat', name: 'With the beat', key: 'B' },
  { hearing: 'stack', name: 'With the stack', key: 'S' },
]

function LineComp({ line }: { line: PlacedLine }) {
  const song = useSong(current => current)
  const { layerId, looping } = useView()
  const layer = song.layers.find(entry => entry.id === layerId) ?? song.layers[0]!
  useEffect(() => {
    if (layer.id !== layerId) useView.setState({ layerId: layer.id })
  }, [layer.id, layerId])
  const comping = useComping(layer.id, line)
  // Half a second is seen on both sides of the line.
  const view = useMemo<FrameRange>(() => ({ startFrame: line.startFrame - 24_000, endFrame: line.endFrame + 24_000 }), [line.startFrame, line.endFrame])
  const { focused, picked } = comping
  const bars = `bars ${barAtFrame(song.beat.grid, line.startFrame)} to ${barAtFrame(song.beat.grid, line.endFrame - 480)}`
  return (
    <>
      <RoomHeading above={`${layer.name} · ${line.section.name}, line ${line.number} · ${bars} · ${count(comping.takes.length, 'take')}`} title={lineTitle(line)}>
        <PrimaryButton onClick={() => void comping.keepAndGoOn()} disabled={!focused}>
          Keep, next line <KeyCap>↵</KeyCap>
        </PrimaryButton>
      </RoomHeading>
      <Flex gap={2} mb={3} align="center" wrap="wrap">
        <NativeSelect.Root size="sm" width="142px">
          <NativeSelect.Field aria-label="Layer" bg="card" borderColor="seamline" borderRadius="full" value={layer.id} onChange={event => useView.setState({ layerId: event.target.value as LayerId })}>
            {song.layers.map(entry => (
              <option key={entry.id} value={entry.id}>
                {entry.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        {HEARINGS.map(({ hearing, name, key }) => (
          <Pill key={hearing} chosen={comping.hearing === hearing} onClick={() => comping.hear(hearing)}>
            {name} <KeyCap>{key}</KeyCap>
          </Pill>
        ))}
        <Pill chosen={looping} onClick={() => useView.setState({ looping: !looping })}>
          Loop <KeyCap>L</KeyCap>
        </Pill>
        <Box ml="auto" color="ink.soft" role="status">
          {focused && focused.id !== picked?.id ? `Equal loudness: ${focused.name.toLowerCase()} ${formatDecibels(comping.matchDecibels, -Infinity)}` : 'Hearing what is picked'}
        </Box>
      </Flex>
      <Well p={0} overflow="hidden">
        {comping.takes.length === 0 ? (
          <EmptyState text={`${layer.name} has no take of this line yet. Sing it in the Booth, or choose another layer.`} />
        ) : (
          <LineBench line={line} layer={layer} view={view} comping={comping} />
        )}
      </Well>
      <Flex mt={3} gap={4} align="center" bg="card" borderRadius="card" px={4} py={2} minH="48px">
        <Box flex="1" role="status">
          <Box as="span" fontFamily="heading" fontWeight={600}>
            {picked ? `${picked.name} is picked` : 'Nothing is picked here'}
          </Box>{' '}
          <Box as="span" color="ink.soft">
            {picked ? comping.seamText : 'Step through the takes with ↑ ↓, pick one with P.'}
          </Box>
        </Box>
        <Pill disabled={!picked} onClick={comping.clear}>
          Clear the line <KeyCap>X</KeyCap>
        </Pill>
      </Flex>
    </>
  )
}
