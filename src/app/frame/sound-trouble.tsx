/** What is wrong with the sound, in words, with what mends it; everything that can be played plays on. */
import { Flex } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { count } from '../shared/format'
import { namesOfSounds } from '../shared/names-of-sounds'
import { Notice, Pill } from '../shared/parts'
import { tryPrintsAgain } from '../song/make-prints'
import { usePrints } from '../song/prints'
import { startAnew, useLive, wake } from '../song/live'
import { useSong } from '../song/song-store'

export function SoundTrouble() {
  const status = useLive(state => state.status)
  const { missing, unread } = useLive(state => state.trouble)
  const failedPrints = usePrints(state => state.failed.size)
  const song = useSong(current => current)
  const dismiss = () => useLive.setState({ trouble: { missing: [], unread: false } })
  return (
    <>
      {status === 'asleep' ? <Trouble title="The browser lets no sound start before a click." answer="Let it sound" onAnswer={() => void wake()} /> : null}
      {status === 'broken' ? (
        <Trouble title="The sound system stopped." answer="Start it again" onAnswer={() => void startAnew()}>
          The song and all takes are kept.
        </Trouble>
      ) : null}
      {missing.length > 0 ? (
        <Trouble title={`Some sound is not there: ${namesOfSounds(song, missing).join(', ')}.`} answer="All right" onAnswer={dismiss}>
          Silence stands for it; the rest plays on. If you have a song file of this song, it may hold it.
        </Trouble>
      ) : null}
      {failedPrints > 0 ? (
        <Trouble title={`${count(failedPrints, 'changed sound')} could not be made.`} answer="Try again" onAnswer={tryPrintsAgain}>
          It plays as it was sung. Is there room on the disk? Everything that was changed is kept.
        </Trouble>
      ) : null}
      {unread ? (
        <Trouble title="Stored sound could not be read just now." answer="All right" onAnswer={dismiss}>
          Nothing was changed. Play again; close what else uses the disk if it happens again.
        </Trouble>
      ) : null}
    </>
  )
}

function Trouble({ title, answer, onAnswer, children }: { title: string; answer: string; onAnswer: () => void; children?: ReactNode }) {
  return (
    <Notice tone="warn" title={title}>
      {children}
      <Flex mt={1}>
        <Pill size="xs" onClick={onAnswer}>
          {answer}
        </Pill>
      </Flex>
    </Notice>
  )
}
