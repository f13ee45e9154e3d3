/** Make doubles from what is left: takes that no layer plays, and the same words sung elsewhere. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { pickAllInto } from '../../../core/comp/pick-into'
import { nameFrom, readyForDoubles } from '../../../core/stack/place-elsewhere'
import type { DoubleReasons } from '../../../core/stack/line-offers'
import type { DoubleChoice, DoublesProposal } from '../../../core/stack/propose-doubles'
import { setWanted } from '../../../core/stack/wanted'
import type { Layer, LayerId, Song } from '../../../core/song/schema'
import { currentComp, lineTitle, requireTake, type PlacedLine } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { count } from '../../shared/format'
import { Card, CardTitle, Notice, Pill, PrimaryButton, ProgressBar } from '../../shared/parts'
import { singMissing } from '../../recording/queue'
import { edit, editWith, useSong } from '../../song/song-store'
import { storedSound } from '../../song/stored-sound'
import { selectedLines, useView } from '../../song/view-store'
import { setBench } from '../comp/bench-store'
import { MadeDouble } from './made-double'
import { useProposedDoubles } from './use-proposed-doubles'

export function DoubleCard() {
  const song = useSong(current => current)
  const doubles = song.layers.filter(layer => layer.role === 'double')
  const lead = song.layers.find(layer => layer.role === 'lead')
  if (!lead || doubles.length === 0)
    return (
      <Card>
        <CardTitle>Make doubles from what is left</CardTitle>
        <Text color="ink.soft" mt={2}>
          This needs a lead and a layer with the role “Double”. Add one under Layers.
        </Text>
      </Card>
    )
  return <Doubles song={song} lead={lead} doubles={doubles} />
}

function Doubles({ song, lead, doubles }: { song: Song; lead: Layer; doubles: readonly Layer[] }) {
  const selection = useView(state => state.selection)
  const navigate = useNavigate()
  const [left, setLeft] = useState<ReadonlySet<LayerId>>(new Set())
  const [replacing, setReplacing] = useState(false)
  const lines = selectedLines(song, selection)
  const asked = doubles.filter(({ id }) => !left.has(id))
  const looked = useProposedDoubles(
    song,
    asked.length > 0 && lines.length > 0
      ? { sourceLayerId: lead.id, layerIds: asked.map(({ id }) => id), lineIds: lines.map(({ line }) => line.id), replacing }
      : null,
  )
  const found = looked.kind === 'found' ? looked.proposal : null
  const locked = asked.filter(layer => currentComp(layer).locked)
  const accept = () => {
    if (!found) return
    void editWith(`make ${namesOf(asked)} from what is left`, async current => {
      const ready = readyForDoubles(current, found.choices, makeId)
      return {
        song: (
          await pickAllInto(
            ready.song,
            ready.picks.map(pick => ({ ...pick, makeId })),
            storedSound,
          )
        ).song,
        answer: null,
      }
    })
  }
  // The bench then shows only takes that no layer plays in these lines.
  const byEar = () => {
    useView.setState({ layerId: asked[0]?.id ?? doubles[0]!.id })
    setBench({ freeOnly: true, fine: 'line', focus: null })
    void navigate(`/song/${song.id}/comp`)
  }
  const singThem = () => {
    if (!found) return
    const ok = edit('want what no take is left for', current =>
      found.missing.reduce(
        (s, { lineId, layerIds }) => layerIds.reduce((next, layerId) => setWanted(next, { layerId, lineIds: [lineId], wanted: true }), s),
        current,
      ),
    )
    if (ok.ok) singMissing(() => void navigate(`/song/${song.id}/booth`))
  }
  const missing = found?.missing.reduce((sum, { layerIds }) => sum + layerIds.length, 0) ?? 0
  return (
    <Card>
      <Flex gap={2} align="center" wrap="wrap">
        <CardTitle>Make doubles from what is left</CardTitle>
        <Box flex="1" />
        <Flex gap="6px" wrap="wrap" role="group" aria-label="Doubles to make">
          {doubles.map(layer => (
            <Pill
              key={layer.id}
              size="xs"
              px={3}
              chosen={!left.has(layer.id)}
              onClick={() => setLeft(left.has(layer.id) ? new Set([...left].filter(id => id !== layer.id)) : new Set([...left, layer.id]))}
            >
              {layer.name}
            </Pill>
          ))}
        </Flex>
      </Flex>
      <Text color="ink.soft" mt={1}>
        For {selection.kind === 'song' ? 'the whole song' : selection.kind === 'section' ? 'the selected section' : count(lines.length, 'line')}; choose more on
        the sheet. The lead’s own choice is never touched, and no take sounds in two layers.
      </Text>
      <Flex mt={3} gap={2} align="center" wrap="wrap">
        <PrimaryButton onClick={accept} disabled={!found || found.choices.length === 0}>
          {found && found.choices.length > 0
            ? `Make ${asked.length === 1 ? 'the double' : 'the doubles'} of ${count(found.choices.length, 'patch', 'patches')}`
            : looked.kind === 'looking' && asked.length > 0
              ? 'Looking for takes …'
              : 'Nothing to fill here'}
        </PrimaryButton>
        {missing > 0 ? <Pill onClick={singThem}>Sing the {count(missing, 'patch', 'patches')} that no take is left for</Pill> : null}
        <Pill onClick={byEar}>Choose by ear in Comp</Pill>
        {locked.length > 0 ? (
          <Text color="warn">
            {namesOf(locked)} {locked.length === 1 ? 'plays a locked comp' : 'play locked comps'}: unlock {locked.length === 1 ? 'it' : 'them'} in Comp first.
          </Text>
        ) : null}
      </Flex>
      {looked.kind === 'looking' && asked.length > 0 && lines.length > 0 ? (
        <Flex mt={3} gap={3} align="center">
          <ProgressBar width="200px" fraction={looked.fraction} label="Comparing the takes" />
          <Text color="ink.soft">Comparing the takes with the lead …</Text>
        </Flex>
      ) : null}
      {looked.kind === 'failed' ? (
        <Box mt={2}>
          <Notice tone="warn" title="The takes could not be compared">
            Nothing was changed.{' '}
            <Pill size="xs" px={3} onClick={looked.again}>
              Try again
            </Pill>
          </Notice>
        </Box>
      ) : null}
      {found ? <Proposal song={song} lines={lines} layers={asked} proposal={found} /> : null}
      {found && found.copies.length > 0 ? (
        <Text mt={2} color="ink.soft">
          Left out: {[...new Set(found.copies.map(({ takeId }) => requireTake(song, takeId).name.toLowerCase()))].join(', ')}. It is the lead’s own sound once
          more, and would only get louder or hollow.
        </Text>
      ) : null}
      {found && found.played.length > 0 ? (
        <Flex mt={2} gap={2} align="center" wrap="wrap">
          <Text color="ink.soft">
            {count(found.played.length, 'line')} of them {found.played.length === 1 ? 'is' : 'are'} played already:{' '}
            {replacing ? 'that gives way.' : 'left as it is.'}
          </Text>
          <Pill size="xs" px={3} chosen={replacing} onClick={() => setReplacing(!replacing)}>
            Replace it too
          </Pill>
        </Flex>
      ) : null}
      <MadeDouble song={song} layers={asked} missing={found?.missing ?? []} />
    </Card>
  )
}

function namesOf(layers: readonly Layer[]): string {
  return layers.map(({ name }) => name).join(' and ')
}

function Proposal({ song, lines, layers, proposal }: { song: Song; lines: readonly PlacedLine[]; layers: readonly Layer[]; proposal: DoublesProposal }) {
  const rows = lines.flatMap(line => layers.map(layer => ({ line, layer })))
  return (
    <Box as="ul" mt={3} listStyleType="none" maxH="190px" overflowY="auto" tabIndex={0} aria-label="Proposed takes">
      {rows.map(({ line, layer }) => {
        const lineId = line.line.id
        const choice = proposal.choices.find(entry => entry.lineId === lineId && entry.layerId === layer.id)
        const isMissing = proposal.missing.some(entry => entry.lineId === lineId && entry.layerIds.includes(layer.id))
        const words = choice ? choiceWords(song, choice) : isMissing ? 'no take is left: sing it, or let it be made' : 'plays something already'
        return (
          <Flex as="li" key={`${lineId} ${layer.id}`} gap={3} py="2px">
            <Box flex="1 1 26%" minW={0} truncate>
              {lineTitle(line)}
            </Box>
            <Box flex="0 0 100px" truncate>
              {layer.name}
            </Box>
            <Box flex="1 1 60%" minW={0} color={isMissing ? 'warn' : 'ink.soft'}>
              {words}
            </Box>
          </Flex>
        )
      })}
    </Box>
  )
}

function choiceWords(song: Song, { takeId, elsewhere, reasons }: DoubleChoice): string {
  const name = elsewhere ? nameOfElsewhere(song, takeId, elsewhere.lineId) : requireTake(song, takeId).name.toLowerCase()
  return [name, ...reasonWords(reasons, elsewhere !== null)].join(' · ')
}

function nameOfElsewhere(song: Song, takeId: DoubleChoice['takeId'], lineId: PlacedLine['line']['id']): string {
  return `the same words sung elsewhere: ${nameFrom(song, takeId, lineId).toLowerCase()}`
}

const IN_TIME_MILLISECONDS = 25
const IN_TUNE_CENTS = 20

function reasonWords({ offMilliseconds, likeness, centsOff, clips, goesOn }: DoubleReasons, isElsewhere: boolean): string[] {
  return [
    offMilliseconds === undefined
      ? 'the lead rests here'
      : offMilliseconds <= IN_TIME_MILLISECONDS
        ? 'in time with the lead'
        : `${Math.round(offMilliseconds)} ms off the lead`,
    likeness !== undefined && likeness > 0.5 ? 'its vowels alike' : null,
    centsOff === null ? null : Math.abs(centsOff) <= IN_TUNE_CENTS ? 'in tune' : `${Math.round(Math.abs(centsOff))} cents ${centsOff > 0 ? 'sharp' : 'flat'}`,
    clips > 0 ? 'clipped' : null,
    goesOn && !isElsewhere ? 'as in the line before' : null,
  ].filter(word => word !== null)
}
