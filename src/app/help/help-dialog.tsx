/** What singers ask, looked for in their own words; each answer goes where it is done. */
import { Box, Dialog, Flex, Input, Text } from '@chakra-ui/react'
import { useRef, useState, type RefObject } from 'react'
import { useNavigate, useParams } from 'react-router'
import { ROOMS } from '../frame/rooms'
import { DialogCard } from '../shared/dialog-card'
import { Pill } from '../shared/parts'
import { findAnswers, type Answer } from './answers'

export function HelpDialog({ onClose }: { onClose: () => void }) {
  const field = useRef<HTMLInputElement>(null)
  return (
    <Dialog.Root open onOpenChange={details => !details.open && onClose()} initialFocusEl={() => field.current} size="lg" scrollBehavior="inside">
      <DialogCard title="What singers ask">
        <Body field={field} onGo={onClose} />
      </DialogCard>
    </Dialog.Root>
  )
}

function Body({ field, onGo }: { field: RefObject<HTMLInputElement | null>; onGo: () => void }) {
  const [asked, setAsked] = useState('')
  const { songId } = useParams()
  const navigate = useNavigate()
  const answers = findAnswers(asked)
  const go = ({ room }: Answer) => {
    onGo()
    void navigate(room && songId ? `/song/${songId}/${room}` : '/')
  }
  return (
    <Dialog.Body pb={5} tabIndex={0} role="group" aria-label="Answers">
      <Input
        ref={field}
        aria-label="Look for"
        placeholder="late, thin, echo, file …"
        borderColor="seamline"
        maxLength={100}
        value={asked}
        onChange={event => setAsked(event.target.value)}
        onKeyDown={event => event.key !== 'Escape' && event.stopPropagation()}
      />
      <Text role="status" color="ink.soft" mt={2}>
        {answers.length === 0 ? 'Nothing is said about that. Try another word.' : null}
      </Text>
      <Flex as="ul" direction="column" gap={4} mt={2} listStyleType="none">
        {answers.map(answer => (
          <li key={answer.question}>
            <Flex align="baseline" gap={3}>
              <Text fontWeight={600} flex="1">
                {answer.question}
              </Text>
              <GoThere answer={answer} inSong={songId !== undefined} onGo={() => go(answer)} />
            </Flex>
            <Text color="ink.soft" mt={1}>
              {answer.says.join(' ')}
            </Text>
          </li>
        ))}
      </Flex>
      <Box height={2} />
    </Dialog.Body>
  )
}

/** On the Shelf there is no song to go into. */
function GoThere({ answer: { room, question }, inSong, onGo }: { answer: Answer; inSong: boolean; onGo: () => void }) {
  if (room && !inSong) return null
  const name = ROOMS.find(({ path }) => path === room)?.name ?? 'the Shelf'
  return (
    <Pill size="xs" px={3} onClick={onGo} aria-label={`Go to ${name}: ${question}`}>
      to {name}
    </Pill>
  )
}
