/** A double that nobody sang, where no take is left: offered with a plain word that a sung one is better. */
import { Flex, Text } from '@chakra-ui/react'
import { useMemo } from 'react'
import { partOfLead } from '../../../core/parts/part-of-lead'
import { setMade, setPart } from '../../../core/parts/commands'
import type { DoublesProposal } from '../../../core/stack/propose-doubles'
import type { Layer, Song } from '../../../core/song/schema'
import { placedLines } from '../../../core/song/select'
import { count } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { edit } from '../../song/song-store'
import { useLeadNotes } from '../../song/use-lead-notes'
import { leadOf } from '../../../core/align/led-paths'

export function MadeDouble({ song, layers, missing }: { song: Song; layers: readonly Layer[]; missing: DoublesProposal['missing'] }) {
  const lines = useMemo(() => placedLines(song).filter(({ line }) => missing.some(({ lineId }) => lineId === line.id)), [song, missing])
  const lead = layers[0] ? leadOf(song, layers[0]) : null
  const notes = useLeadNotes(song, lead, lines)
  if (missing.length === 0 || !lead) return null
  const patches = missing.reduce((sum, { layerIds }) => sum + layerIds.length, 0)
  const make = () => {
    const unison = partOfLead(song, notes ?? [], { kind: 'unison' })
    edit(`make ${count(patches, 'patch', 'patches')} of doubles from the lead`, current =>
      missing.reduce(
        (s, { lineId, layerIds }) =>
          layerIds.reduce((next, layerId) => {
            const line = lines.find(entry => entry.line.id === lineId)!
            const own = unison.filter(
              ({ startFrame, endFrame }) => (startFrame + endFrame) / 2 >= line.startFrame && (startFrame + endFrame) / 2 < line.endFrame,
            )
            const seed = 101 + current.layers.findIndex(layer => layer.id === layerId)
            const made = next.layers.find(layer => layer.id === layerId)?.made ?? { sound: 'lead' as const, throatSemitones: 0, seed }
            return setMade(setPart(next, { layerId, range: line, notes: own }), { layerId, made })
          }, s),
        current,
      ),
    )
  }
  return (
    <Flex mt={3} pt={3} gap={3} align="center" wrap="wrap" borderTopWidth="1px" borderColor="seamline">
      <Text flex="1 1 340px" color="ink.soft">
        Or let them be made from the lead, with another timing and pitch by a hair. A sung one is better: another breath and other vowels are what makes it
        sound like two.
      </Text>
      <Pill size="sm" disabled={!notes || notes.length === 0 || !song.beat.key} onClick={make}>
        {notes === null ? 'Listening to the lead …' : `Let ${count(patches, 'patch', 'patches')} be made`}
      </Pill>
    </Flex>
  )
}
