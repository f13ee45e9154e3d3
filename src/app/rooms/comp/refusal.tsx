/** Why a take was not picked, and what can be done. */
import type { PickOutcome } from '../../../core/comp/pick-into'
import { Flex } from '@chakra-ui/react'
import type { Stretch } from '../../../core/comp/stretches'
import { describeComp } from '../../../core/comp/comps'
import type { Layer, Song } from '../../../core/song/schema'
import { currentComp, requireTake } from '../../../core/song/select'
import { Notice, Pill } from '../../shared/parts'
import { edit } from '../../song/song-store'
import { setBench, type Row } from './bench-store'
import { pickRow } from './comping'
import { copyText } from './row-facts'
import { usesOf } from './rows'

export function Refusal({
  song,
  layer,
  stretch,
  row,
  outcome,
  onDone,
}: {
  song: Song
  layer: Layer
  stretch: Stretch
  row: Row
  outcome: Exclude<PickOutcome, 'picked'>
  onDone: () => void
}) {
  const take = requireTake(song, row.takeId)
  if (outcome === 'used-elsewhere') {
    const insist = async () => {
      await pickRow(row, stretch, { insist: true })
      setBench({ focus: null })
      onDone()
    }
    return (
      <Notice tone="warn" title={copyText(song, usesOf(song, row.layerId, take.id, stretch), take)}>
        <Flex gap={2} mt={1} align="center">
          Nothing was changed.
          <Pill size="xs" onClick={() => void insist()}>
            Pick it all the same
          </Pill>
          <Pill size="xs" onClick={onDone}>
            Leave it
          </Pill>
        </Flex>
      </Notice>
    )
  }
  if (outcome === 'locked') {
    const comp = currentComp(layer)
    return (
      <Notice tone="warn" title={`${comp.name} is locked.`}>
        <Flex gap={2} mt={1} align="center">
          Nothing was changed.
          <Pill
            size="xs"
            onClick={() => {
              edit(`unlock ${comp.name}`, current => describeComp(current, { layerId: layer.id, compId: comp.id, locked: false }))
              onDone()
            }}
          >
            Unlock it
          </Pill>
          <Pill size="xs" onClick={onDone}>
            Leave it
          </Pill>
        </Flex>
      </Notice>
    )
  }
  return (
    <Notice tone="warn" title={`${take.name} was not sung here.`}>
      <Flex gap={2} mt={1} align="center">
        What was picked stays.
        <Pill size="xs" onClick={onDone}>
          Good
        </Pill>
      </Flex>
    </Notice>
  )
}
