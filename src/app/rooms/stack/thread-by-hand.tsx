/** One syllable of a voice that follows the lead: how it was found and where it sounds, and a place for it by hand. */
import { Flex, Text } from '@chakra-ui/react'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { checkEdit, removeEdits, setTimeEdit } from '../../../core/edits/commands'
import { MOST_LATER_FRAMES, type EditId } from '../../../core/song/edit-schema'
import { requireTake } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { NumberField } from '../../shared/number-field'
import { Pill, SmallButton } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import type { Thread } from './threads'

const MILLISECOND_FRAMES = SAMPLE_RATE_HZ / 1_000
const MOST_MILLISECONDS = MOST_LATER_FRAMES / MILLISECOND_FRAMES

interface ThreadByHandProps {
  title: string
  thread: Thread
  at: number
  of: number
  onStep: (at: number) => void
}

export function ThreadByHand({ title, thread: { takeId, frame, sung, led, now }, at, of, onStep }: ThreadByHandProps) {
  const take = useSong(song => requireTake(song, takeId))
  const canEdit = useSong(song => checkEdit(song, takeId).ok)
  const hand = take.edits.times.find(time => time.frame === frame)
  const milliseconds = (frames: number) => Math.round(frames / MILLISECOND_FRAMES)
  const off = milliseconds(now - led)
  const set = (typed: number) =>
    edit(`a syllable of ${title} by hand`, song =>
      setTimeEdit(song, { takeId, edit: { id: hand?.id ?? (makeId() as EditId), frame, laterFrames: Math.round(typed * MILLISECOND_FRAMES) } }),
    )
  return (
    <Flex align="center" gap={1} mt={1} wrap="wrap" role="group" aria-label={`Syllables of ${title}`}>
      <SmallButton aria-label="The syllable before" disabled={at === 0} onClick={() => onStep(at - 1)}>
        <ChevronLeft size={15} aria-hidden />
      </SmallButton>
      <Text fontSize="12px" whiteSpace="nowrap">
        {at + 1} of {of}
      </Text>
      <SmallButton aria-label="The next syllable" disabled={at === of - 1} onClick={() => onStep(at + 1)}>
        <ChevronRight size={15} aria-hidden />
      </SmallButton>
      <Text fontSize="12px" color="ink.soft" flex="1 1 120px" role="status">
        {off === 0 ? 'with the lead' : `${Math.abs(off)} ms ${off > 0 ? 'after' : 'before'} the lead`}
        {hand ? ', by hand' : ''}
      </Text>
      <Text fontSize="12px" color="ink.soft">
        later by
      </Text>
      <NumberField
        label="It sounds later by"
        value={milliseconds(now - sung)}
        min={-MOST_MILLISECONDS}
        max={MOST_MILLISECONDS}
        unit="ms"
        digits={0}
        width="52px"
        onKeep={set}
      />
      {hand ? (
        <Pill size="xs" px={3} disabled={!canEdit} onClick={() => edit('a syllable as found', song => removeEdits(song, { takeId, editIds: [hand.id] }))}>
          As found
        </Pill>
      ) : (
        <Pill size="xs" px={3} disabled={!canEdit || off === 0} onClick={() => set((led - sung) / MILLISECOND_FRAMES)}>
          To the lead
        </Pill>
      )}
    </Flex>
  )
}
