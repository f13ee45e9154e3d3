/** Make a double from what is left: takes that no layer plays. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { pickAllInto } from '../../../core/comp/pick-into'
import { proposeDouble } from '../../../core/layers/doubles'
import type { LayerId } from '../../../core/song/schema'
import { currentComp, lineTitle, requirePlacedLine, requireTake, takesCovering } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { count } from '../../shared/format'
import { Card, CardTitle, Pill, PrimaryButton } from '../../shared/parts'
import { PillSelect } from '../../shared/pill-select'
import { currentSong, editWith, useSong } from '../../song/song-store'
import { peaksLookup } from '../../song/sounds'
import { storedSound } from '../../song/stored-sound'
import { selectedLines, useView } from '../../song/view-store'
import { setBench } from '../comp/bench-store'

export function DoubleCard() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const navigate = useNavigate()
  const doubles = song.layers.filter(layer => layer.role === 'double')
  const lead = song.layers.find(layer => layer.role === 'lead')
  const [chosen, setChosen] = useState<LayerId | null>(null)
  const [replacing, setReplacing] = useState(false)
  const double = doubles.find(layer => layer.id === chosen) ?? doubles[0]
  const lines = selectedLines(song, selection)
  const proposal = useQuery({
    queryKey: ['double', song, lead?.id, double?.id, lines.map(placed => placed.line.id), replacing],
    queryFn: async () => {
      const takes = lines.flatMap(placed => takesCovering(song, lead!.id, placed))
      const peaksOf = await peaksLookup([...new Set([...takes, ...song.takes.filter(take => take.layerId === double!.id)])])
      return {
        peaksOf,
        ...proposeDouble(song, { sourceLayerId: lead!.id, doubleLayerId: double!.id, lineIds: lines.map(placed => placed.line.id), peaksOf, replacing }),
      }
    },
    enabled: Boolean(lead && double && lines.length > 0),
    gcTime: 0,
  })
  if (!lead || !double)
    return (
      <Card>
        <CardTitle>Make a double from what is left</CardTitle>
        <Text color="ink.soft" mt={2}>
          This needs a lead and a layer with the role “Double”. Add one at the right.
        </Text>
      </Card>
    )
  const found = proposal.data
  const accept = () => {
    if (!found) return
    void editWith(`make ${double.name} from what is left`, async current => {
      const wishes = found.choices.map(({ lineId, takeId }) => {
        const { startFrame, endFrame } = requirePlacedLine(current, lineId)
        return { layerId: double.id, takeId, asked: { startFrame, endFrame }, makeId }
      })
      return { song: (await pickAllInto(current, wishes, storedSound)).song, answer: null }
    })
  }
  // The bench then shows only takes that no layer plays in these lines.
  const byEar = () => {
    useView.setState({ layerId: double.id })
    setBench({ freeOnly: true, fine: 'line', focus: null })
    void navigate(`/song/${song.id}/comp`)
  }
  const missing = found?.missingLineIds.length ?? 0
  const played = found?.playedLineIds.length ?? 0
  return (
    <Card>
      <CardTitle>Make a double from what is left</CardTitle>
      <Flex gap={2} align="center" mt={2} wrap="wrap">
        <PillSelect
          size="sm"
          width="150px"
          label="Double"
          value={double.id}
          options={doubles.map(({ id, name }) => ({ value: id, label: name }))}
          onChoose={id => setChosen(id as LayerId)}
        />
        <Text color="ink.soft">
          for {selection.kind === 'song' ? 'the whole song' : selection.kind === 'section' ? 'the selected section' : count(lines.length, 'line')}: choose more
          on the sheet
        </Text>
      </Flex>
      <Box as="ul" mt={3} listStyleType="none" maxH="130px" overflowY="auto" tabIndex={0} aria-label="Proposed takes">
        {found?.choices.map(choice => (
          <Flex as="li" key={choice.lineId} gap={3} py="2px">
            <Box flex="1" truncate>
              {lineTitle(requirePlacedLine(currentSong(), choice.lineId))}
            </Box>
            <Box color="ink.soft" whiteSpace="nowrap">
              {requireTake(currentSong(), choice.takeId).name.toLowerCase()} ·{' '}
              {choice.likeness === null ? 'the lead has picked nothing here yet' : `moves ${Math.round(Math.max(0, choice.likeness) * 100)} % like the lead`}
            </Box>
          </Flex>
        ))}
        {found?.missingLineIds.map(lineId => (
          <Flex as="li" key={lineId} gap={3} py="2px">
            <Box flex="1" truncate>
              {lineTitle(requirePlacedLine(currentSong(), lineId))}
            </Box>
            <Box color="warn" whiteSpace="nowrap">
              no take left: sing 1 more pass
            </Box>
          </Flex>
        ))}
      </Box>
      {played > 0 ? (
        <Flex mt={2} gap={2} align="center">
          <Text color="ink.soft">
            {double.name} plays something in {count(played, 'line')} already: {replacing ? 'that would be replaced.' : 'left as it is.'}
          </Text>
          <Pill size="xs" chosen={replacing} onClick={() => setReplacing(!replacing)}>
            Replace it too
          </Pill>
        </Flex>
      ) : null}
      <Flex mt={3} gap={2} align="center" wrap="wrap">
        <PrimaryButton onClick={accept} disabled={!found || found.choices.length === 0}>
          {found?.choices.length === 0 ? 'Nothing to fill here' : `Make the double from ${count(found?.choices.length ?? 0, 'take')}`}
        </PrimaryButton>
        <Pill onClick={byEar}>Choose by ear in Comp</Pill>
        {currentComp(double).locked ? (
          <Text color="warn">
            {currentComp(double).name} of {double.name} is locked: unlock it in Comp first.
          </Text>
        ) : missing > 0 ? (
          <Text color="ink.soft">
            {count(missing, 'line')} {missing === 1 ? 'needs' : 'need'} one more pass.
          </Text>
        ) : null}
      </Flex>
    </Card>
  )
}
