/** The takes of the selected stretch, newest first: star, bin, and how each was placed. */
import { Box, chakra, Flex, Text } from '@chakra-ui/react'
import { RotateCcw, Star, Trash2 } from 'lucide-react'
import type { Song, Take } from '../../../core/song/schema'
import { binnedTakes, overlapFrames, type FrameRange } from '../../../core/song/select'
import { binTake, describeTake, restoreTake, usesOfTake } from '../../../core/song/takes'
import { formatMilliseconds, formatMinutes } from '../../shared/format'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { useRecorder } from './recorder-store'

const SmallButton = chakra('button', { base: { p: '5px', borderRadius: '8px', color: 'ink.soft', cursor: 'pointer', _hover: { bg: 'sunken', color: 'ink' }, _pressed: { color: 'brand' } } })

const SOURCE_TEXT: Record<Take['roundTripSource'], string> = { measured: 'measured', estimated: 'estimated', simulated: 'simulated interface', none: 'not moved' }

export function TakeList({ range }: { range: FrameRange }) {
  const song = useSong(current => current)
  const layerId = useView(state => state.layerId)
  const { lastTakeIds, gapSeconds } = useRecorder()
  const takes = song.takes.filter(take => take.layerId === layerId && !take.binned && overlapFrames(take, range) > 0).reverse()
  const binned = binnedTakes(song)
  return (
    <Card>
      <CardTitle>{takes.length === 0 ? 'No takes here yet' : 'Takes here'}</CardTitle>
      {gapSeconds > 0 ? <Text color="warn">{Math.ceil(gapSeconds * 1_000)} ms of the last recording never arrived; silence of the same length stands in its place.</Text> : null}
      {takes.map(take => (
        <TakeRow key={take.id} take={take} fresh={lastTakeIds.includes(take.id)} song={song} />
      ))}
      {binned.length > 0 ? (
        <Box as="details" mt={2}>
          <Box as="summary" cursor="pointer" color="ink.soft">
            Bin ({binned.length})
          </Box>
          {binned.map(take => (
            <Flex key={take.id} align="center" gap={3} py={1}>
              <Box flex="1">{take.name}</Box>
              <Pill disabled={layerId === null} onClick={() => edit(`put ${take.name} back`, current => restoreTake(current, { takeId: take.id, layerId: layerId! }))}>
                <RotateCcw size={14} aria-hidden /> Put back
              </Pill>
            </Flex>
          ))}
        </Box>
      ) : null}
    </Card>
  )
}

function TakeRow({ take, fresh, song }: { take: Take; fresh: boolean; song: Song }) {
  const uses = usesOfTake(song, take.id).map(use => song.layers.find(layer => layer.id === use.layerId)?.name)
  const used = [...new Set(uses)].join(', ')
  return (
    <Flex align="center" gap={3} py={1} data-take={take.id}>
      <Box flex="0 0 110px" fontWeight={600}>
        {take.name} {fresh ? <Box as="span" color="ok" fontWeight={500}>new</Box> : null}
      </Box>
      <Box flex="1" color="ink.soft" truncate>
        {formatMinutes(take.endFrame - take.startFrame)} · moved {formatMilliseconds(take.roundTripFrames)} earlier, {SOURCE_TEXT[take.roundTripSource]}
        {used ? ` · sounds in ${used}` : ''}
      </Box>
      <SmallButton aria-pressed={take.starred} aria-label={`Star ${take.name}`} title="Star" onClick={() => edit(take.starred ? `unstar ${take.name}` : `star ${take.name}`, current => describeTake(current, { takeId: take.id, starred: !take.starred }))}>
        <Star size={16} fill={take.starred ? 'currentColor' : 'none'} aria-hidden />
      </SmallButton>
      <SmallButton aria-label={`Put ${take.name} in the bin`} title={used ? `Sounds in ${used}; goes to the bin` : 'To the bin'} onClick={() => edit(`bin ${take.name}`, current => binTake(current, { takeId: take.id }))}>
        <Trash2 size={16} aria-hidden />
      </SmallButton>
    </Flex>
  )
}
