/** A harmony that is to be sung and has no notes yet: the usual ones on one button, so that the singer has something to sing to. */
import { Flex, Text } from '@chakra-ui/react'
import { leadOf } from '../../../core/align/led-paths'
import { setPart } from '../../../core/parts/commands'
import { partOfLead } from '../../../core/parts/part-of-lead'
import type { Layer, Song } from '../../../core/song/schema'
import { overlapFrames, type PlacedLine } from '../../../core/song/select'
import { Pill } from '../../shared/parts'
import { PART_NAMES, usualKind } from '../../shared/part-kinds'
import { edit } from '../../song/song-store'
import { useLeadNotes } from '../../song/use-lead-notes'

const HARMONIES: readonly Layer['role'][] = ['high-harmony', 'low-harmony', 'octave']

export function WriteGuide({ song, layer, lines }: { song: Song; layer: Layer; lines: readonly PlacedLine[] }) {
  const lead = leadOf(song, layer)
  const notes = useLeadNotes(song, lead, lines)
  const hasPart = layer.part.some(note => lines.some(line => overlapFrames(note, line) > 0))
  if (!HARMONIES.includes(layer.role) || hasPart || !lead || !song.beat.key) return null
  const kind = usualKind(layer.role)
  const write = () => {
    if (kind === 'held') return
    const part = partOfLead(song, notes ?? [], { kind, layerId: layer.id })
    edit(`${layer.name}: ${PART_NAMES[kind]}`, current =>
      lines.reduce((written, line) => setPart(written, { layerId: layer.id, range: line, notes: part.filter(note => overlapFrames(note, line) > 0) }), current),
    )
  }
  return (
    <Flex width="100%" gap={2} align="center">
      <Text color="ink.soft">
        No notes are written for it here{notes?.length === 0 ? ', and the lead plays nothing to write them from: write them in Stack' : ''}.
      </Text>
      <Pill size="xs" px={3} disabled={!notes || notes.length === 0} onClick={write}>
        {notes === null ? 'Listening to the lead …' : `Write ${PART_NAMES[kind]} to sing to`}
      </Pill>
    </Flex>
  )
}
