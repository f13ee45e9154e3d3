/** A pass held against the part that it was sung to, line by line: how far off, where another note was sung; and what was sung can become the part. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { checkPart, OTHER_NOTE_CENTS, partAsSung, type CheckedNote } from '../../../core/stack/check-part'
import { setPart } from '../../../core/parts/commands'
import type { Layer, Song, Take } from '../../../core/song/schema'
import { covers, lineTitle, placedLines, type FrameRange } from '../../../core/song/select'
import { count, formatMidi } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { heardIn } from '../../song/hear-takes'
import { edit } from '../../song/song-store'
import { useVoices } from '../../song/voices'

/** More are not read between two takes. */
const MOST_LINES = 4

export function PartVerdict({ song, take }: { song: Song; take: Take }) {
  const layer = song.layers.find(({ id }) => id === take.layerId)
  const lines = placedLines(song).filter(line => covers(take, line))
  const withPart = layer ? lines.filter(line => layer.part.some(note => note.startFrame < line.endFrame && note.endFrame > line.startFrame)) : []
  const voices = useVoices(withPart.length > 0 ? [take] : [])
  const analysis = voices.get(take.assetId)
  if (!layer || withPart.length === 0) return null
  const heard = take.heard ?? (analysis ? heardIn(take, analysis) : null)
  if (!heard) return <Text color="ink.soft">Holding it against the part …</Text>
  const asSung = withPart.map(line => ({ line, notes: partAsSung(line, heard, take.originFrame, song.beat.tuningCents) }))
  const becomePart = () =>
    edit(`${layer.name}: ${take.name} is the part now`, current =>
      asSung.reduce((written, { line, notes }) => setPart(written, { layerId: layer.id, range: line, notes }), current),
    )
  return (
    <Box>
      {withPart.slice(0, MOST_LINES).map(line => (
        <Text key={line.line.id} color="ink.soft">
          {withPart.length > 1 ? `${lineTitle(line)}: ` : 'Against the part: '}
          {verdictOf(checkPart(layer.part, line, heard, take.originFrame, song.beat.tuningCents).notes, song)}
        </Text>
      ))}
      <Flex mt={1}>
        <Pill size="xs" px={3} disabled={isSameAs(layer, asSung)} onClick={becomePart}>
          As sung is the part now
        </Pill>
      </Flex>
    </Box>
  )
}

function isSameAs({ part }: Layer, asSung: readonly { line: FrameRange; notes: Layer['part'] }[]): boolean {
  return asSung.every(({ line, notes }) => {
    const own = part.filter(note => note.startFrame < line.endFrame && note.endFrame > line.startFrame)
    return own.map(({ midi }) => midi).join() === notes.map(({ midi }) => midi).join()
  })
}

function verdictOf(notes: readonly CheckedNote[], song: Song): string {
  const sung = notes.filter(({ centsOff }) => centsOff !== null)
  const on = sung.filter(({ centsOff }) => Math.abs(centsOff!) <= OTHER_NOTE_CENTS)
  const others = sung.filter(({ centsOff }) => Math.abs(centsOff!) > OTHER_NOTE_CENTS)
  const middle = on.map(({ centsOff }) => centsOff!).sort((a, b) => a - b)[on.length >> 1] ?? 0
  const off = Math.abs(middle) < 8 ? 'in tune' : `${Math.round(Math.abs(middle))} cents ${middle > 0 ? 'sharp' : 'flat'} in the middle`
  const name = (midi: number) => formatMidi(midi, song.beat.key)
  return [
    on.length === notes.length
      ? `all ${count(notes.length, 'note')} as written, ${off}`
      : `${on.length} of ${count(notes.length, 'note')} as written${on.length > 0 ? `, ${off}` : ''}`,
    others.length > 0
      ? `sung otherwise: ${others
          .slice(0, 3)
          .map(({ note, centsOff }) => `${name(Math.round(note.midi + centsOff! / 100))} for ${name(note.midi)}`)
          .join(', ')}${others.length > 3 ? ` and ${others.length - 3} more` : ''}`
      : null,
    notes.length > sung.length ? `${notes.length - sung.length} not sung` : null,
  ]
    .filter(word => word !== null)
    .join('; ')
}
