/** At the foot of the sheet, in the first song only: what comes next. Each hint goes when it was followed or put away, all of them on one word. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useEffect } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { nextStep, type FirstStep } from '../../core/propose/first-song'
import { Pill } from '../shared/parts'
import { passAllSteps, passStep, useFirstSong } from '../song/first-song'
import { useSong } from '../song/song-store'
import type { ROOMS } from './rooms'
import { useWordsDialog } from './words-dialog'

interface Hint {
  text: string
  /** Where it is done; null: in the words of the sheet. */
  room: (typeof ROOMS)[number]['path'] | null
  /** Being there is not yet having done it. */
  isDoneByBeing: boolean
}

const HINTS: Record<FirstStep, Hint> = {
  words: { text: 'Paste your words: everything hangs on their lines. You can sing without any as well.', room: null, isDoneByBeing: false },
  sing: { text: 'Sing. The Booth says first whether it will record; R begins and stops.', room: 'booth', isDoneByBeing: false },
  'sing-again': { text: 'Sing it once or twice more: the best of several is chosen line by line.', room: 'booth', isDoneByBeing: false },
  choose: { text: 'Choose the best take of each line, or let a first comp propose.', room: 'comp', isDoneByBeing: true },
  thicken: { text: 'Thicken the hook: doubles from what is left over, harmonies to sing to.', room: 'stack', isDoneByBeing: true },
  tidy: { text: 'Lower the breaths, mend pops, tune as far as you like.', room: 'tidy', isDoneByBeing: true },
  mix: { text: 'Let a first mix be laid, and change what you do not like.', room: 'mix', isDoneByBeing: true },
  deliver: { text: 'Send it off.', room: 'deliver', isDoneByBeing: true },
}

export function FirstSongHint() {
  const song = useSong(current => current)
  const first = useFirstSong(state => state.first)
  const step = first?.songId === song.id ? nextStep(song, first.past) : null
  const { pathname } = useLocation()
  const navigate = useNavigate()
  const hint = step && HINTS[step]
  const isThere = hint?.room != null && pathname.endsWith(`/${hint.room}`)
  useEffect(() => {
    if (step && isThere && HINTS[step].isDoneByBeing) passStep(step)
  }, [step, isThere])
  if (!hint || (isThere && hint.isDoneByBeing)) return null
  const go = () => (hint.room ? void navigate(`/song/${song.id}/${hint.room}`) : useWordsDialog.setState({ open: true }))
  return (
    <Box
      role="note"
      aria-label="What comes next"
      position="sticky"
      bottom="12px"
      mt={4}
      p={3}
      bg="card"
      borderRadius="card"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="brand"
      boxShadow="card"
    >
      <Text fontSize="13px">
        <Text as="span" fontWeight={600}>
          Next:{' '}
        </Text>
        {hint.text}
      </Text>
      <Flex mt={2} gap={2} wrap="wrap">
        {isThere ? null : (
          <Pill size="xs" px={3} onClick={go}>
            Take me there
          </Pill>
        )}
        <Pill size="xs" px={3} onClick={() => passStep(step)}>
          Put away
        </Pill>
        <Pill size="xs" px={3} onClick={passAllSteps}>
          No more hints
        </Pill>
      </Flex>
    </Box>
  )
}
