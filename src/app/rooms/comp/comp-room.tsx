/** Comp: which take is best here? */
import type { PickOutcome } from '../../../core/comp/pick-into'
import { Box, Flex } from '@chakra-ui/react'
import { memo, useCallback, useEffect, useMemo, useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { barAtFrame } from '../../../core/beat/grid'
import { beginBlind } from '../../../core/comp/blind'
import { proposeComp } from '../../../core/comp/propose-comp'
import { markSingAgain } from '../../../core/comp/put-aside'
import { SCOPES, type Scope, type Stretch } from '../../../core/comp/stretches'
import type { Company } from '../../../core/mix/heard'
import type { Layer, LayerId, LineId } from '../../../core/song/schema'
import { currentComp, placedLines, requireLayer, requireTake } from '../../../core/song/select'
import { count, formatDecibels } from '../../shared/format'
import { LayerSelect } from '../../shared/layer-select'
import { NoLayers } from '../../shared/no-layers'
import { NoLines } from '../../shared/no-lines'
import { EmptyState, KeyCap, Pill, PrimaryButton, RoomHeading, Well } from '../../shared/parts'
import { currentSong, edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { AsidePanel } from './aside-panel'
import { BenchView } from './bench-view'
import { changeScope, setBench, stepStretch, useBench, whatIsCompared, type Panel, type Row } from './bench-store'
import { BlindPanel } from './blind-panel'
import { pickRow, seamsIn } from './comping'
import { CompsPanel } from './comps-panel'
import { FirstCompPanel } from './first-comp-panel'
import { Refusal } from './refusal'
import { pickedIn, usesOf } from './rows'
import { SeamBar } from './seam-bar'
import { SingAgainForm, SingAgainMark } from './sing-again'
import { useAudition, useBenchState, useMatchDecibels, type Bench } from './use-bench'
import { useCompKeys } from './use-comp-keys'

export function CompRoom() {
  const layers = useSong(song => song.layers)
  const hasLines = useSong(song => song.sections.some(section => section.lines.length > 0))
  const layerId = useView(state => state.layerId)
  const layer = layers.find(entry => entry.id === layerId) ?? layers[0]
  useEffect(() => {
    if (layer && layer.id !== layerId) useView.setState({ layerId: layer.id })
  }, [layer, layerId])
  if (!layer) return <NoLayers why="Here the best of their takes is chosen." />
  if (!hasLines) return <NoLines layer={layer} />
  return <LayerComp layer={layer} />
}

function LayerComp({ layer }: { layer: Layer }) {
  const bench = useBenchState(layer)
  const song = useSong(current => current)
  // A selection without lines, such as an intro: the bench opens at the first line.
  useEffect(() => {
    if (!bench) changeScope(song, layer, 'line')
  }, [bench, song, layer])
  return bench ? <OnTheBench bench={bench} /> : null
}

const COMPANIES: { company: Company; name: string; key: string }[] = [
  { company: 'alone', name: 'Alone', key: 'A' },
  { company: 'beat', name: 'With the beat', key: 'B' },
  { company: 'stack', name: 'With the stack', key: 'S' },
]

function OnTheBench({ bench }: { bench: Bench }) {
  const { song, layer, stretch, focused, picked, rows } = bench
  const matchDecibels = useMatchDecibels(bench)
  useAudition(bench, matchDecibels)
  const panel = useBench(state => state.panel)
  const blind = useBench(state => state.blind)
  const seamId = useBench(state => state.seam)
  const lockedAsked = useBench(state => state.lockedAsked)
  const hinted = useBench(state => state.hint)
  const [said, setRefused] = useState<{ row: Row; outcome: PickOutcome; stretch: Stretch } | null>(null)
  const refused = said?.stretch === stretch ? said : null
  const [marking, setMarking] = useState<LineId | null>(null)
  const onRefused = useCallback((outcome: PickOutcome, row: Row) => setRefused({ row, outcome, stretch }), [stretch])
  const onPick = useCallback(
    async (row: Row, goOn = false) => {
      setRefused(null)
      const outcome = await pickRow(row, stretch)
      if (outcome !== 'picked') return setRefused({ row, outcome, stretch })
      setBench({ focus: null })
      if (goOn) stepStretch(currentSong(), layer, 1)
    },
    [stretch, layer],
  )
  const names = JSON.stringify(song.layers.map(entry => [entry.id, entry.name]))
  const onBlind = useCallback(() => {
    const free = rows.filter(row => row.layerId === layer.id && usesOf(currentSong(), layer.id, row.takeId, stretch).length === 0).map(row => row.takeId)
    if (free.length > 1) setBench({ panel: 'none', blind: beginBlind(free, Math.random), equalLoudness: true, focus: null, sideBySide: false })
  }, [rows, layer.id, stretch])
  const lineId = stretch.lineIds.length === 1 ? stretch.lineIds[0]! : null
  const onSingAgain = () => {
    if (!lineId) return
    if (layer.singAgain.some(mark => mark.lineId === lineId))
      edit('it is sung well now', current => markSingAgain(current, { layerId: layer.id, lineId, note: null }))
    else setMarking(lineId)
  }
  const onKeep = () => (focused && focused.takeId !== picked?.id ? void onPick(focused, true) : stepStretch(song, layer, 1))
  useCompKeys(bench, { onPick, onKeep, onSingAgain, onPutAside: () => setBench({ panel: panel === 'aside' ? 'none' : 'aside' }) })
  const proposals = useProposals(bench)
  const place = seamId
    ? (seamsIn(song, layer.id, { startFrame: -Infinity, endFrame: Infinity }).find(seam => seam.id.pickId === seamId.pickId && seam.id.edge === seamId.edge) ??
      null)
    : null
  const { grid } = song.beat
  const [firstBar, lastBar] = [barAtFrame(grid, stretch.startFrame), barAtFrame(grid, stretch.endFrame - 480)]
  const bars = firstBar === lastBar ? `bar ${firstBar}` : `bars ${firstBar} to ${lastBar}`
  const line = lineId ? placedLines(song).find(placed => placed.line.id === lineId) : undefined
  const where = line
    ? `${line.section.name}, line ${line.number}`
    : stretch.scope === 'section'
      ? 'a whole section'
      : stretch.scope === 'song'
        ? 'the whole song'
        : count(stretch.lineIds.length, 'line')
  const comp = currentComp(layer)
  /** Named where there is more than one, or something to know of it. */
  const compName = layer.comps.length > 1 || comp.locked ? `${comp.name}${comp.locked ? ', locked' : ''}` : null
  return (
    <Flex direction="column" height="100%" minH="560px">
      <RoomHeading
        above={
          <>
            <Heard bench={bench} matchDecibels={matchDecibels} />
            <Box as="span" role="status" color="warn">
              {hinted}
            </Box>
            {hinted === null && [layer.name, where, bars, count(rows.length, 'take'), compName].filter(Boolean).join(' · ')}
          </>
        }
        title={stretch.title}
      >
        <PrimaryButton onClick={onKeep} disabled={!focused || blind !== null}>
          Keep, next {stretch.scope === 'song' ? 'one' : stretch.scope} <KeyCap>↵</KeyCap>
        </PrimaryButton>
      </RoomHeading>
      <Hearing layerId={layer.id} layers={names} />
      <Tools
        layerId={layer.id}
        scope={stretch.scope}
        roleLayers={song.layers.filter(entry => entry.role === layer.role).length}
        takes={rows.length}
        onBlind={onBlind}
      />
      {line ? <SingAgainMark song={song} layer={layer} lineId={line.line.id} /> : null}
      {lockedAsked && focused && !refused ? (
        <Refusal song={song} layer={layer} stretch={stretch} row={focused} outcome="locked" onDone={() => setBench({ lockedAsked: false })} />
      ) : null}
      {refused && refused.outcome !== 'picked' ? (
        <Refusal song={song} layer={layer} stretch={stretch} row={refused.row} outcome={refused.outcome} onDone={() => setRefused(null)} />
      ) : null}
      {blind ? (
        <BlindPanel bench={bench} round={blind} />
      ) : (
        <>
          <Well p={0} overflow="hidden" flex="1 1 auto" minH="200px">
            {rows.length === 0 ? (
              <EmptyState text={`${layer.name} has no take here yet. ${WAYS_TO_A_TAKE}`} />
            ) : (
              <BenchView bench={bench} onPick={onPick} proposals={panel === 'first' ? proposals : NO_PROPOSALS} />
            )}
          </Well>
          {marking !== null && marking === lineId ? (
            <SingAgainForm bench={bench} onDone={() => setMarking(null)} />
          ) : panel === 'first' ? (
            <FirstCompPanel bench={bench} proposals={proposals} />
          ) : panel === 'comps' ? (
            <CompsPanel bench={bench} />
          ) : panel === 'aside' ? (
            <AsidePanel bench={bench} onRefused={onRefused} />
          ) : (
            <SeamBar song={song} layer={layer} place={place} stretch={stretch} pick={pickedIn(song, layer.id, stretch)?.pick ?? null} />
          )}
        </>
      )}
    </Flex>
  )
}

const WAYS_TO_A_TAKE = 'Sing it in the Booth, look for free takes of other layers with “Free takes”, or choose another layer.'
const NO_PROPOSALS: ReturnType<typeof proposeComp> = []

function useProposals({ song, layer }: Bench) {
  const weights = useBench(state => state.weights)
  const candidates = useBench(state => state.candidates)
  return useMemo(
    () =>
      candidates && candidates.of === whatIsCompared(song, layer.id)
        ? proposeComp(song, { layerId: layer.id, lines: candidates.lines, weights })
        : NO_PROPOSALS,
    [candidates, song, layer.id, weights],
  )
}

/** What is heard now, and by how much it was turned to be as loud as what is picked. */
function Heard({ bench: { song, layer, focused, picked }, matchDecibels }: { bench: Bench; matchDecibels: number }) {
  const equal = useBench(state => state.equalLoudness)
  const blind = useBench(state => state.blind)
  const differs = focused !== null && (focused.takeId !== picked?.id || focused.layerId !== layer.id)
  const name = focused ? requireTake(song, focused.takeId).name : ''
  const text = blind
    ? 'names are hidden'
    : differs
      ? `hearing ${name}, ${equal ? `matched by ${formatDecibels(matchDecibels, -Infinity)}` : 'as loud as it was sung'}`
      : picked
        ? `hearing what is picked`
        : 'nothing is picked'
  return (
    <Box as="span" role="status" float="right" color={differs ? 'brand' : 'ink.soft'} pl={4}>
      {text}
    </Box>
  )
}

/** A small window has room for the takes first. */
const HEARING_SIZE = { base: 'xs', xl: 'sm' } as const

/** How it is heard: company, loop, a bar before, equal loudness. */
const Hearing = memo(function Hearing({ layerId, layers }: { layerId: LayerId; layers: string }) {
  const company = useBench(state => state.company)
  const barBefore = useBench(state => state.barBefore)
  const equal = useBench(state => state.equalLoudness)
  const looping = useView(state => state.looping)
  return (
    <Flex gap={{ base: '6px', xl: 2 }} mb={2} align="center" wrap={{ base: 'wrap', xl: 'nowrap' }}>
      <LayerSelect size={{ base: 'xs', xl: 'sm' }} layerId={layerId} layers={(JSON.parse(layers) as [string, string][]).map(([id, name]) => ({ id, name }))} />
      {COMPANIES.map(entry => (
        <Pill key={entry.company} size={HEARING_SIZE} px={3} chosen={company === entry.company} onClick={() => setBench({ company: entry.company })}>
          {entry.name} <KeyCap>{entry.key}</KeyCap>
        </Pill>
      ))}
      <Pill size={HEARING_SIZE} px={3} chosen={looping} onClick={() => useView.setState({ looping: !looping })}>
        Loop <KeyCap>L</KeyCap>
      </Pill>
      <Pill size={HEARING_SIZE} px={3} chosen={barBefore} onClick={() => setBench({ barBefore: !barBefore })}>
        Bar before <KeyCap>V</KeyCap>
      </Pill>
      <Pill size={HEARING_SIZE} px={3} chosen={equal} title="Takes are compared as loud as what is picked" onClick={() => setBench({ equalLoudness: !equal })}>
        Equal loudness <KeyCap>E</KeyCap>
      </Pill>
    </Flex>
  )
})

const SCOPE_NAMES: Record<Scope, string> = { song: 'Song', section: 'Section', line: 'Line', piece: 'Piece', word: 'Word' }

/** How much is chosen at once, what is on the bench, and the help in choosing. */
const Tools = memo(function Tools({
  layerId,
  scope: chosen,
  roleLayers,
  takes,
  onBlind,
}: {
  layerId: LayerId
  scope: Scope
  roleLayers: number
  takes: number
  onBlind: () => void
}) {
  const { panel, blind, notes, freeOnly, sideBySide } = useBench(
    useShallow(state => ({ panel: state.panel, blind: state.blind !== null, notes: state.notes, freeOnly: state.freeOnly, sideBySide: state.sideBySide })),
  )
  const open = (next: Panel) => setBench({ panel: panel === next ? 'none' : next, blind: null })
  return (
    <Flex gap="6px" mb={2} align="center" wrap={{ base: 'wrap', xl: 'nowrap' }} role="group" aria-label="Bench tools">
      <Flex role="group" aria-label="How much is chosen at once" gap="2px" align="center">
        <KeyCap>,</KeyCap>
        {SCOPES.map(scope => (
          <Pill key={scope} size="xs" px={2} chosen={chosen === scope} onClick={() => changeScope(currentSong(), requireLayer(currentSong(), layerId), scope)}>
            {SCOPE_NAMES[scope]}
          </Pill>
        ))}
        <KeyCap>.</KeyCap>
      </Flex>
      <Pill size="xs" px={2} chosen={notes} onClick={() => setBench({ notes: !notes })}>
        Notes <KeyCap>I</KeyCap>
      </Pill>
      <Pill
        size="xs"
        px={2}
        chosen={freeOnly}
        title="Only takes, of any layer, that no other layer plays here"
        onClick={() => setBench({ freeOnly: !freeOnly })}
      >
        Free takes <KeyCap>F</KeyCap>
      </Pill>
      {roleLayers > 1 ? (
        <Pill size="xs" px={2} chosen={sideBySide} title="All layers of this role under each other" onClick={() => setBench({ sideBySide: !sideBySide })}>
          Side by side <KeyCap>Y</KeyCap>
        </Pill>
      ) : null}
      <Flex ml="auto" gap="6px">
        <Pill size="xs" px={2} chosen={panel === 'first'} onClick={() => open('first')}>
          First comp
        </Pill>
        <Pill size="xs" px={2} chosen={blind} disabled={takes < 2} onClick={onBlind}>
          Blind
        </Pill>
        <Pill size="xs" px={2} chosen={panel === 'comps'} onClick={() => open('comps')}>
          Comps
        </Pill>
        <Pill size="xs" px={2} chosen={panel === 'aside'} onClick={() => open('aside')}>
          Aside <KeyCap>O</KeyCap>
        </Pill>
      </Flex>
    </Flex>
  )
})
