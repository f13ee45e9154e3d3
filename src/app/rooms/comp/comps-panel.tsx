/** Named comps of a layer: save, go back, compare by line, copy a line, lock; and the comp as one take or one file. */
import { Box, Flex, Input, Text } from '@chakra-ui/react'
import { Lock, LockOpen, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { checkCopy, copyFromComp, describeComp, differingLines, removeComp, saveComp, switchComp } from '../../../core/comp/comps'
import { isBounceStale } from '../../../core/comp/bounces'
import type { Comp, LineId, Song } from '../../../core/song/schema'
import type { Stretch } from '../../../core/comp/stretches'
import { currentComp, lineTitle, requirePlacedLine } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { count } from '../../shared/format'
import { NameField } from '../../shared/name-field'
import { Card, Pill } from '../../shared/parts'
import { edit } from '../../song/song-store'
import { goTo, setBench, useBench } from './bench-store'
import { BounceControls } from './bounce-controls'
import type { Bench } from './use-bench'

export function CompsPanel({ bench }: { bench: Bench }) {
  const { song, layer } = bench
  const [name, setName] = useState('')
  const current = currentComp(layer)
  const save = () => {
    edit(`save ‘${name || 'a comp'}’`, song_ => saveComp(song_, { layerId: layer.id, name, makeId }))
    setName('')
  }
  const bounces = song.takes.filter(take => take.bounceOf?.compId === current.id && !take.binned)
  return (
    <Card mt={3} py={3} role="group" aria-label="Comps of this layer">
      <Flex gap={5} align="start">
        <Box flex="1 1 0" minW={0} maxH="132px" overflowY="auto" tabIndex={0} role="list" aria-label="Comps">
          {layer.comps.map(comp => (
            <CompRow key={comp.id} comp={comp} bench={bench} current={comp.id === current.id} />
          ))}
        </Box>
        <Flex direction="column" gap={2} flex="0 0 250px">
          <Flex gap={2}>
            <Input
              aria-label="Name for a copy of this comp"
              placeholder="Name"
              size="xs"
              height="30px"
              bg="card"
              borderColor="seamline"
              borderRadius="full"
              value={name}
              onChange={event => setName(event.target.value)}
              onKeyDown={event => {
                event.stopPropagation()
                if (event.key === 'Enter') save()
              }}
            />
            <Pill onClick={save}>Save a copy</Pill>
          </Flex>
          <BounceControls song={song} layer={layer} bounce={bounces.at(-1) ?? null} stale={bounces.some(take => isBounceStale(song, take))} />
        </Flex>
      </Flex>
      <Comparison bench={bench} />
    </Card>
  )
}

function CompRow({ comp, bench: { layer }, current }: { comp: Comp; bench: Bench; current: boolean }) {
  const against = useBench(state => state.against)
  const compared = against?.compId === comp.id
  return (
    <Flex role="listitem" align="center" gap={2} py="2px">
      <NameField
        label={`Name of ${comp.name}`}
        name={comp.name}
        size="2xs"
        px={1}
        maxW="170px"
        fontSize="13px"
        fontWeight={current ? 600 : 400}
        onKeep={name => edit(`rename ${comp.name}`, song => describeComp(song, { layerId: layer.id, compId: comp.id, name }))}
      />
      <Box flex="1" minW={0} truncate color="ink.soft">
        {count(comp.picks.length, 'pick')}
        {current ? ' · heard and worked on' : ''}
        {comp.locked ? ' · locked' : ''}
      </Box>
      <Pill
        size="xs"
        px={2}
        aria-label={comp.locked ? `Unlock ${comp.name}` : `Lock ${comp.name}`}
        onClick={() =>
          edit(comp.locked ? `unlock ${comp.name}` : `lock ${comp.name}`, song =>
            describeComp(song, { layerId: layer.id, compId: comp.id, locked: !comp.locked }),
          )
        }
      >
        {comp.locked ? <Lock size={13} aria-hidden /> : <LockOpen size={13} aria-hidden />}
      </Pill>
      {current ? null : (
        <>
          <Pill size="xs" chosen={compared} onClick={() => setBench({ against: compared ? null : { compId: comp.id, playing: false } })}>
            Compare
          </Pill>
          <Pill
            size="xs"
            onClick={() => {
              setBench({ against: null })
              edit(`go to ${comp.name}`, song => switchComp(song, { layerId: layer.id, compId: comp.id }))
            }}
          >
            Go to it
          </Pill>
          <Pill
            size="xs"
            px={2}
            disabled={comp.locked}
            aria-label={`Let ${comp.name} go`}
            onClick={() => {
              setBench({ against: null })
              edit(`let ${comp.name} go`, song => removeComp(song, { layerId: layer.id, compId: comp.id }))
            }}
          >
            <Trash2 size={13} aria-hidden />
          </Pill>
        </>
      )}
    </Flex>
  )
}

/** The lines in which two comps differ: each can be gone to, heard either way, and copied over. */
function Comparison({ bench: { song, layer, stretch } }: { bench: Bench }) {
  const against = useBench(state => state.against)
  const other = against ? layer.comps.find(comp => comp.id === against.compId) : undefined
  if (!against || !other) return null
  const current = currentComp(layer)
  const lineIds = differingLines(song, { layerId: layer.id, compIds: [current.id, other.id] })
  const here = lineIds.find(id => stretch.lineIds.includes(id))
  const copy = here ? checkCopy(song, { layerId: layer.id, fromCompId: other.id, ...rangeOfLine(song, here) }) : null
  return (
    <Box mt={3} pt={2} borderTopWidth="1px" borderColor="seamline">
      <Flex align="center" gap={2} wrap="wrap">
        <Text color="ink.soft">
          {lineIds.length === 0 ? `Nothing differs from ${other.name}.` : `${count(lineIds.length, 'line')} ${lineIds.length === 1 ? 'differs' : 'differ'}:`}
        </Text>
        {lineIds.slice(0, 8).map(id => (
          <Pill key={id} size="xs" chosen={stretch.lineIds.includes(id)} onClick={() => goTo(song, lineStretch(song, id))}>
            {lineTitle(requirePlacedLine(song, id)).slice(0, 22)}
          </Pill>
        ))}
        <Flex ml="auto" gap={2}>
          <Pill chosen={!against.playing} onClick={() => setBench({ against: { ...against, playing: false } })}>
            Hear {current.name}
          </Pill>
          <Pill chosen={against.playing} onClick={() => setBench({ against: { ...against, playing: true } })}>
            Hear {other.name}
          </Pill>
          {here && copy ? (
            <Pill
              disabled={!copy.ok}
              title={copy.ok ? '' : copy.reason === 'locked' ? 'This comp is locked.' : `${copy.takeName} is used in another layer by now.`}
              onClick={() =>
                edit(`copy a line from ${other.name}`, song_ =>
                  copyFromComp(song_, { layerId: layer.id, fromCompId: other.id, ...rangeOfLine(song_, here), makeId }),
                )
              }
            >
              Copy this line here
            </Pill>
          ) : null}
        </Flex>
      </Flex>
    </Box>
  )
}

function lineStretch(song: Song, lineId: LineId): Stretch {
  const line = requirePlacedLine(song, lineId)
  return { scope: 'line', title: lineTitle(line), startFrame: line.startFrame, endFrame: line.endFrame, lineIds: [lineId], sectionId: line.section.id }
}

function rangeOfLine(song: Song, lineId: LineId) {
  const { startFrame, endFrame } = requirePlacedLine(song, lineId)
  return { startFrame, endFrame }
}
