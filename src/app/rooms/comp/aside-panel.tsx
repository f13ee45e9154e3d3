/** What is kept for later: stretches put aside with a note, and lines to be sung again. */
import type { PickOutcome } from '../../../core/comp/pick-into'
import { Box, Flex, Input, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { letGo, putAside, sparesOver } from '../../../core/comp/put-aside'
import { currentComp, requireLayer, requireTake } from '../../../core/song/select'
import { placeOfTake } from '../../../core/song/take-place'
import { makeId } from '../../../storage/database'
import { Card, Pill } from '../../shared/parts'
import { edit } from '../../song/song-store'
import { setBench, type Row } from './bench-store'
import { pickRow } from './comping'
import type { Bench } from './use-bench'

export function AsidePanel({ bench, onRefused }: { bench: Bench; onRefused: (outcome: PickOutcome, row: Row) => void }) {
  const { song, layer, stretch, focused } = bench
  const [note, setNote] = useState('')
  const spares = sparesOver(song, stretch)
  const take = focused ? requireTake(song, focused.takeId) : null
  const keep = () => {
    if (!take) return
    edit(`put a stretch of ${take.name} aside`, current =>
      putAside(current, { takeId: take.id, startFrame: stretch.startFrame, endFrame: stretch.endFrame, note, makeId }),
    )
    setNote('')
  }
  return (
    <Card mt={3} py={3} role="group" aria-label="Put aside">
      <Flex gap={2} align="center" mb={2}>
        <Box>{take ? `Put ${take.name} aside for “${stretch.title.slice(0, 28)}”` : 'No take is looked at'}</Box>
        <Input
          aria-label="Note"
          placeholder="Why"
          size="xs"
          height="30px"
          maxW="260px"
          bg="card"
          borderColor="seamline"
          borderRadius="full"
          value={note}
          onChange={event => setNote(event.target.value)}
          onKeyDown={event => {
            event.stopPropagation()
            if (event.key === 'Enter') keep()
          }}
        />
        <Pill disabled={!take} onClick={keep}>
          Put it aside
        </Pill>
      </Flex>
      <Box maxH="96px" overflowY="auto" tabIndex={0} role="list" aria-label="Put aside here">
        {spares.length === 0 ? <Text color="ink.soft">Nothing was put aside here, in any layer.</Text> : null}
        {spares.map(spare => {
          const source = requireTake(song, spare.takeId)
          const range = {
            startFrame: Math.max(spare.startFrame, stretch.startFrame),
            endFrame: Math.min(spare.endFrame, stretch.endFrame),
            title: stretch.title,
          }
          const row = { layerId: layer.id, takeId: source.id }
          return (
            <Flex key={spare.id} role="listitem" align="center" gap={3} py="2px">
              <Box flex="1" minW={0} truncate>
                <b>{source.name}</b> of {song.layers.find(entry => entry.id === source.layerId)?.name ?? 'a layer that is gone'}, {placeOfTake(song, spare)}
                {spare.note ? (
                  <Box as="span" color="ink.soft">
                    {' '}
                    · “{spare.note}”
                  </Box>
                ) : null}
              </Box>
              <Pill size="xs" onClick={() => setBench({ focus: row, freeOnly: source.layerId !== layer.id })}>
                Hear it here
              </Pill>
              <Pill
                size="xs"
                disabled={currentComp(requireLayer(song, layer.id)).locked}
                onClick={() =>
                  void pickRow(row, range).then(outcome => {
                    if (outcome !== 'picked') onRefused(outcome, row)
                  })
                }
              >
                Use it here
              </Pill>
              <Pill
                size="xs"
                px={2}
                aria-label={`Let the stretch of ${source.name} go`}
                onClick={() => edit('let a spare go', current => letGo(current, { spareId: spare.id }))}
              >
                <Trash2 size={13} aria-hidden />
              </Pill>
            </Flex>
          )
        })}
      </Box>
    </Card>
  )
}
